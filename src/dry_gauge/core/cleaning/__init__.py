"""Cleaning coils: which chemistry, how much, how long, and what shows that it is clean. Pure."""
