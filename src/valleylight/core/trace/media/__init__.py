"""Air that scatters and absorbs."""
