"""Pictures and patterns laid over surfaces."""
