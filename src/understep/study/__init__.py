"""Study: surveys, traces of searches, comparisons, proof."""
