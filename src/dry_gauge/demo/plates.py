"""Labels of units, drawn as a phone would take them: a little askew, unsharp and grainy. All invented."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

import zxingcpp
from PIL import Image, ImageDraw, ImageFilter, ImageFont
from sqlalchemy import Connection, insert, update

from dry_gauge.demo.ids import SHOP_ID, ident
from dry_gauge.exchange.pictures import made_small
from dry_gauge.store.models import Photo, Unit

# Each line: its cells side by side, and the height of its letters.
COOLER = (
    (("COLDHARBOUR REFRIGERATION",), 54),
    (("MODEL NO.  CH-05M", "SERIAL NO.  CHX 1207K316"), 44),
    (("VOLTS 208/230  PH 1  HZ 60", "COMPRESSOR RLA 6.4 LRA 38"), 36),
    (("REFRIGERANT R-134a", "CHARGE  5 LBS 8 OZ"), 42),
    (("DESIGN PRESSURE HIGH 300 PSIG  LOW 150 PSIG",), 34),
    (("MFR DATE 02/2012", "MAX FUSE 15"), 36),
)
_SIZE = (1600, 1150)
_SECOND_CELL = 780


def plate(lines: Sequence[tuple[Sequence[str], int]], *, askew: float = 1.5, unsharp: float = 1.0, code: str = "") -> bytes:
    """A label as a photo. JPEG

    Parameters
    ----------
    askew : float
        How far it is turned, counter-clockwise. [degrees]
    unsharp : float
        Radius of the blur; 6 is past reading. [px]
    code : str
        What its bar code says, if it has one.
    """
    image = Image.new("RGB", _SIZE, (120, 122, 126))
    pen = ImageDraw.Draw(image)
    pen.rounded_rectangle((60, 60, _SIZE[0] - 60, _SIZE[1] - 60), 18, fill=(222, 223, 220), outline=(60, 60, 60), width=4)
    top = 110.0
    for cells, height in lines:
        for i, cell in enumerate(cells):
            pen.text((110 + i * _SECOND_CELL, top), cell, font=ImageFont.load_default(height), fill=(34, 34, 38))
        top += height * 1.55
    if code:
        bars = zxingcpp.create_barcode(code, zxingcpp.BarcodeFormat.Code128)
        image.paste(Image.fromarray(zxingcpp.write_barcode_to_image(bars, scale=4)).convert("RGB"), (140, round(top) + 20))
    image = image.rotate(askew, expand=abs(askew) > 45, fillcolor=(120, 122, 126), resample=Image.Resampling.BICUBIC)
    image = image.filter(ImageFilter.GaussianBlur(unsharp))
    grain = Image.radial_gradient("L").resize(image.size).convert("RGB")  # a lamp's glare, darker towards the corners
    out = io.BytesIO()
    Image.blend(image, grain, 0.12).save(out, "JPEG", quality=82)
    return out.getvalue()


def add_label_photo(owner: Connection, person_id: UUID, at: datetime) -> None:
    """The florist's cooler has a photo of its label that nobody has read into its card yet."""
    photo = made_small(plate(COOLER))
    photo_id = ident("photo", "flowers")
    owner.execute(
        insert(Photo).values(
            shop_id=SHOP_ID,
            id=photo_id,
            unit_id=ident("unit", "flowers"),
            person_id=person_id,
            at=at,
            width=photo.width,
            height=photo.height,
            picture=photo.picture,
            thumbnail=photo.thumbnail,
        )
    )
    card = update(Unit).where(Unit.shop_id == SHOP_ID, Unit.id == ident("unit", "flowers"))
    owner.execute(card.values(label_photo=photo_id))
