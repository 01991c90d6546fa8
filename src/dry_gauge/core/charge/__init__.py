"""Refrigerant by weight: what belongs in, what is in, what is in cylinders, and its trim."""
