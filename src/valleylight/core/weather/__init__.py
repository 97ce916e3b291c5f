"""What snow, rain and wind do: optics of snow, wet ground, sizes and speeds of drops and flakes, slopes of water, hollows."""
