"""Shapes, plants and pictures to build things of, and their writing as glTF binary."""
