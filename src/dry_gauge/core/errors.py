"""What the core refuses, drawn as one tree.

Refused                 an input cannot be used; says which, why, and the nearest known names
+-- OutOfRange          a number beyond the range its table or formula covers
+-- ImpossibleAir       moist air that cannot exist
"""

from __future__ import annotations


class Refused(ValueError):
    """An input that cannot be used.

    Parameters
    ----------
    message : str
        One sentence: what is wrong and what would be right.
    path : str
        Where it stands in the sheet, for instance ``readings[3].value``.
    nearest : tuple of str
        Known names close to an unknown one.
    """

    def __init__(self, message: str, path: str = "", nearest: tuple[str, ...] = ()) -> None:
        super().__init__(message)
        self.message = message
        self.path = path
        self.nearest = nearest


class OutOfRange(Refused):
    """A number beyond the range that its table or formula covers."""


class ImpossibleAir(Refused):
    """Moist air that cannot exist, such as a wet bulb above its dry bulb; `quantity` names the reading at fault."""

    def __init__(self, message: str, path: str = "", quantity: str = "") -> None:
        super().__init__(message, path)
        self.quantity = quantity
