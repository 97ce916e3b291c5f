"""The made-up demo project: Tarn Mill, a reading house in a mountain valley."""
