"""Box: forms and panels of walk-ins."""
