"""A condenser's face before and after it was rinsed, drawn as a phone would take it. Invented like everything here."""

from __future__ import annotations

import io
from datetime import datetime
from uuid import UUID

import numpy as np
from PIL import Image, ImageDraw, ImageFilter
from sqlalchemy import Connection, insert

from dry_gauge.demo.ids import SHOP_ID, ident
from dry_gauge.exchange.pictures import made_small
from dry_gauge.notebook.subjects.remarks import PhotoBody
from dry_gauge.store.models import Photo

_SIZE = (1400, 1050)
_FIN, _TUBE = 7, 118
# Name, how much of the face is under salt and lint, and what whoever took it wrote beside it.
FACES = (("before", 0.75, "Condenser face as found: salt and lint"), ("after", 0.03, "The same face, rinsed from inside out"))


def face(dirt: float) -> bytes:
    """Fins and tubes under so much dirt. JPEG

    Parameters
    ----------
    dirt : float
        Share of the face that is covered. [1]
    """
    chance = np.random.default_rng(11)
    width, height = _SIZE
    image = Image.new("RGB", _SIZE, (96, 100, 102))
    pen = ImageDraw.Draw(image)
    for x in range(0, width, _FIN):
        light = int(150 + 30 * np.sin(x / 170) + chance.normal(0, 9))
        pen.line((x, 0, x + chance.normal(0, 1.2), height), fill=(light, light + 4, light + 6), width=3)
    for y in range(_TUBE // 2, height, _TUBE):
        pen.line((0, y, width, y), fill=(112, 84, 62), width=9)
    under = np.clip((np.quantile(over := _clumps(chance), dirt) - over) / over.std() * 0.7 + 0.5, 0, 0.93) * 255
    lint = Image.fromarray(np.clip(chance.normal(138, 16, (height, width)), 0, 255).astype(np.uint8))
    lint = Image.merge("RGB", [lint.point(lambda light, k=k: light * k) for k in (1.08, 1.0, 0.87)])
    image.paste(lint.filter(ImageFilter.GaussianBlur(1.5)), mask=Image.fromarray(under.astype(np.uint8)))
    pen = ImageDraw.Draw(image)
    pen.rectangle((0, 0, width - 1, height - 1), outline=(70, 74, 76), width=46)
    image = image.rotate(-1.2, fillcolor=(70, 74, 76), resample=Image.Resampling.BICUBIC).filter(ImageFilter.GaussianBlur(1.2))
    out = io.BytesIO()
    image.save(out, "JPEG", quality=82)
    return out.getvalue()


def _clumps(chance: np.random.Generator) -> np.ndarray:
    """Where dirt settles: large drifts, thicker below, and fine fluff in them."""
    width, height = _SIZE
    drifts = np.linspace(0.5, 0, height)[:, None] * np.ones(width)
    for cell, weight in ((150, 1.0), (40, 0.5), (9, 0.35)):
        grains = Image.fromarray(chance.random((height // cell + 2, width // cell + 2)).astype(np.float32))
        drifts = drifts + weight * np.asarray(grains.resize(_SIZE, Image.Resampling.BICUBIC))
    return drifts


def photographed() -> tuple[PhotoBody, ...]:
    """The entries of both."""
    return tuple(PhotoBody(photo=ident("photo", "rtu1", name), caption=caption) for name, _, caption in FACES)


def add_faces(owner: Connection, person_id: UUID, at: datetime) -> None:
    """Both photos, of the ferry terminal's rooftop."""
    for name, dirt, _ in FACES:
        photo = made_small(face(dirt))
        owner.execute(
            insert(Photo).values(
                shop_id=SHOP_ID,
                id=ident("photo", "rtu1", name),
                unit_id=ident("unit", "rtu1"),
                person_id=person_id,
                at=at,
                width=photo.width,
                height=photo.height,
                picture=photo.picture,
                thumbnail=photo.thumbnail,
            )
        )
