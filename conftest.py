"""Lets tests import `scripts` and `tests` from the checkout."""
