"""Weather over a stage: the layers it falls on, found by rays; the snow that lies on them; what hangs in the air."""
