"""The year of plants: what colour leaves are by what is in them, and how far they have come by day, latitude and height."""
