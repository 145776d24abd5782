"""Two synthesised speakers."""
