"""The ray structure: what a ray meets, and the surface there."""
