{"questions": ["size"]}
["a", [["a", "size", "cells", 108, ""], ["a", "size", "units", 4, ""]]]
