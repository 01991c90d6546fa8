"""Air on both sides of the coils."""
