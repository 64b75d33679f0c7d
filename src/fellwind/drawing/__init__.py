"""SVG pictures of core objects: the one ruler, the tree, curves, knots."""
