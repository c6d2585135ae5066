"""Drawing: figures and terminal views, so that a programmer can see what the rules decided."""
