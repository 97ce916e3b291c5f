"""Generators of land and planting by published methods, usable alone: erosion, growth of trees, forests, grass, masonry."""
