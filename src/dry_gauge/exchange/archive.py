"""A shop in one file: a ZIP of JSON, CSV, photos and PDFs with a list of what it holds, checked before anything is taken from it.

docs/archive.md says what stands where.
"""

from __future__ import annotations

import json
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from hashlib import sha256
from typing import IO, Any

from dry_gauge.core.errors import Refused

FORMAT, VERSION = "dry-gauge/archive", 1
MANIFEST = "manifest.json"
MOST_FILES, MOST_FILE_BYTES, MOST_BYTES = 400_000, 200_000_000, 20_000_000_000


@dataclass(slots=True)
class ArchiveWriter:
    """Writes files into an archive one after the other; the list comes last."""

    target: IO[bytes]
    listed: dict[str, dict[str, Any]] = field(default_factory=dict)
    _zip: zipfile.ZipFile = field(init=False)

    def __post_init__(self) -> None:
        """Open it."""
        self._zip = zipfile.ZipFile(self.target, "w", zipfile.ZIP_DEFLATED, allowZip64=True)

    def add(self, name: str, content: bytes, *, packed: bool = False) -> None:
        """One file; `packed` ones (photos, PDFs) are not packed again."""
        self._zip.writestr(name, content, zipfile.ZIP_STORED if packed else zipfile.ZIP_DEFLATED)
        self.listed[name] = {"bytes": len(content), "sha256": sha256(content).hexdigest()}

    def add_json(self, name: str, content: Any) -> None:
        """One file of JSON."""
        self.add(name, json.dumps(content, ensure_ascii=False, allow_nan=False, indent=1).encode())

    def close(self, **about: Any) -> None:
        """Write the list."""
        manifest = {"format": FORMAT, "version": VERSION, **about, "files": self.listed}
        self._zip.writestr(MANIFEST, json.dumps(manifest, ensure_ascii=False, indent=1))
        self._zip.close()


class ArchiveReader:
    """Reads an archive that is whole: every listed file is there, as long as it says and unchanged.

    Raises
    ------
    Refused
        For what is no archive, is cut off, was changed, comes from a later version, or is larger than any shop.
    """

    def __init__(self, source: IO[bytes]) -> None:
        try:
            self._zip = zipfile.ZipFile(source)
            names = set(self._zip.namelist())
        except (zipfile.BadZipFile, OSError, ValueError):
            raise Refused("This is no archive, or it is cut off: make it again, and send it whole.", "file") from None
        if MANIFEST not in names:
            raise Refused("This is a ZIP, but no archive of a shop: it has no list of what it holds.", "file")
        self.manifest = self._object(MANIFEST)
        if self.manifest.get("format") != FORMAT:
            raise Refused("This is no archive of a shop.", "file")
        version = self.manifest.get("version")
        if not isinstance(version, int) or version > VERSION:
            words = f"This archive comes from a later release (version {str(version)[:10]}). Install that one first."
            raise Refused(words, "file")
        self.files: Mapping[str, Mapping[str, Any]] = self.manifest.get("files") or {}
        if not isinstance(self.files, dict) or len(self.files) > MOST_FILES:
            raise Refused("The archive's list cannot be read.", "file")
        lacking = sorted(self.files.keys() - names)
        if lacking:
            raise Refused(f"The archive is not whole: {lacking[0][:80]} is missing. Make it again.", "file")
        if sum(one.get("bytes", 0) for one in self.files.values()) > MOST_BYTES:
            raise Refused("The archive is larger than any shop.", "file")

    def check(self) -> Iterator[int]:
        """Read every file and compare it with the list; how many were read so far."""
        for n, name in enumerate(self.files, start=1):
            self.read(name)
            yield n

    def read(self, name: str) -> bytes:
        """One listed file.

        Raises
        ------
        Refused
            Where it is not what the list says.
        """
        known = self.files.get(name)
        if known is None:
            raise Refused(f"The archive has no {name[:80]}.", "file")
        content = self._bytes(name, int(known.get("bytes", 0)))
        if len(content) != known.get("bytes") or sha256(content).hexdigest() != known.get("sha256"):
            raise Refused(f"{name[:80]} in the archive is not as it was written. Make it again.", "file")
        return content

    def object(self, name: str) -> dict[str, Any]:
        """One listed file of JSON."""
        return self._parsed(name, self.read(name))

    def under(self, folder: str) -> list[str]:
        """Listed files of a folder, in order of the list."""
        return [name for name in self.files if name.startswith(folder + "/")]

    def _object(self, name: str) -> dict[str, Any]:
        return self._parsed(name, self._bytes(name, MOST_FILE_BYTES))

    def _parsed(self, name: str, content: bytes) -> dict[str, Any]:
        try:
            found = json.loads(content)
        except (ValueError, RecursionError):
            found = None
        if not isinstance(found, dict):
            raise Refused(f"{name[:80]} in the archive cannot be read. Make it again.", "file")
        return found

    def _bytes(self, name: str, most: int) -> bytes:
        if most > MOST_FILE_BYTES:
            raise Refused(f"{name[:80]} in the archive is larger than any file of a shop.", "file")
        try:
            with self._zip.open(name) as opened:
                return opened.read(most + 1)
        except (zipfile.BadZipFile, OSError, ValueError, EOFError, NotImplementedError, RuntimeError, zipfile.LargeZipFile):
            raise Refused(f"{name[:80]} in the archive cannot be read: it is cut off or broken. Make it again.", "file") from None
