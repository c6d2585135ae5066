"""Files: boards in and out."""
