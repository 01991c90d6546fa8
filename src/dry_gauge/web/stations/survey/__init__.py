"""Survey: forms and panels of a change-out."""
