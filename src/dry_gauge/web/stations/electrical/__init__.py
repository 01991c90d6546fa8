"""Electrical: forms and panels of power and motors."""
