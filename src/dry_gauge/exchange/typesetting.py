"""How a page becomes a PDF. Nothing is fetched: fonts come from the files that ship, everything else is in the text."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from PIL import ImageFile
from weasyprint import CSS, HTML
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher, URLFetcherResponse

# Importing the library lets every picture of this process be cut off; photos that are cut off are refused here.
ImageFile.LOAD_TRUNCATED_IMAGES = False
_FONTS, _PICTURES = "font:", "picture:"


class _Shipped(URLFetcher):  # type: ignore[misc]  # the library has no types
    """Answers with fonts that ship with the application and pictures given to it, else with nothing: no request leaves."""

    def __init__(self, fonts: Mapping[str, Path], pictures: Mapping[str, bytes]) -> None:
        super().__init__()
        self.fonts, self.pictures = fonts, pictures

    def fetch(self, url: str, headers: Mapping[str, str] | None = None) -> URLFetcherResponse:
        """One font, or one picture."""
        picture = self.pictures.get(url.removeprefix(_PICTURES)) if url.startswith(_PICTURES) else None
        if picture is not None:
            return URLFetcherResponse(url, picture, {"content-type": "image/jpeg"})
        name = url.removeprefix(_FONTS)
        if not url.startswith(_FONTS) or name not in self.fonts:
            raise ValueError(f"{url[:80]!r} does not ship with the page")
        return URLFetcherResponse(url, self.fonts[name].read_bytes(), {"content-type": "font/woff2"})


def set_as_pdf(html: str, styles: str, fonts: Mapping[str, Path], pictures: Mapping[str, bytes]) -> bytes:
    """One document as PDF; its parameters are those of `pdf.pdf_of`."""
    fetcher, configuration = _Shipped(fonts, pictures), FontConfiguration()
    sheet = CSS(string=styles, font_config=configuration, url_fetcher=fetcher)
    document = HTML(string=html, url_fetcher=fetcher)
    made: bytes = document.write_pdf(stylesheets=[sheet], font_config=configuration, pdf_tags=True)
    return made
