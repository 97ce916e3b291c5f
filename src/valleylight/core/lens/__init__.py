"""The lens as a photographer thinks of it: stops, angles, what is sharp, the frame."""
