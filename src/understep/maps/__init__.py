"""Maps: levels read and checked, boards resized, cells scattered."""
