"""Composing: cut-outs laid into a picture behind what stands nearer, in the light of their place, with the shadows they cast."""
