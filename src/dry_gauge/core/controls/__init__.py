"""Control circuits and their sensors. Pure."""
