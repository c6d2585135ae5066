"""Sight: lines of sight between cells, and what can be seen from one."""
