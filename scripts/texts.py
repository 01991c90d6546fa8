"""Every text of the interface in one place, under the file it stands in: to be read for plainness, or translated.

Technicians' texts stand where they are used: in templates, in scripts, and in Python beside the rule that says them. Written to
`docs/texts-en.txt`, which a test holds to the source; with words of paths behind the command only those files are printed. What
owners read stands in one file for each language already (`exchange/languages/`). `{}` is a value, `|` where a text may go two
ways.
"""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator, Sequence
from html.parser import HTMLParser
from pathlib import Path

from jinja2 import Environment

ROOT = Path(__file__).parents[1]
SOURCE, CATALOGUE = ROOT / "src/dry_gauge", ROOT / "docs/texts-en.txt"
GENERATED = ("calibration_", "tables.py", "coefficients.js")
LEFT_OUT = {"migrations", "vendor"}
SPOKEN = ("placeholder", "aria-label", "title", "alt")
WITHIN = {"a", "abbr", "b", "em", "i", "small", "span", "strong", "time"}
_WORDS = re.compile(r"[A-Za-z]{2,}")
_PROSE = re.compile(r"[a-z]{2,}.* |[A-Z][a-z]+ [a-z]")
_QUOTED = re.compile(r'"((?:[^"\\\n]|\\.)*)"|`((?:[^`\\]|\\.)*)`')
_SELECTOR = re.compile(r"[.#\[]\w|:\w|[>=~]")
_SQL = re.compile(r"\s*(SELECT|INSERT|UPDATE|DELETE|CREATE|ALTER|WITH|DROP|GRANT|SET|LOCK)\b")


class _Heard(HTMLParser):
    """What a page says: its text, and the attributes that are read or read out."""

    def __init__(self) -> None:
        super().__init__()
        self.lines = [""]

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag not in WITHIN:
            self.lines.append("")
        elif tag == "small":  # a line of its own nearly everywhere
            self.lines[-1] += " "
        self.lines[-1:] = [*(value or "" for name, value in attrs if name in SPOKEN), self.lines[-1]]

    def handle_endtag(self, tag: str) -> None:
        if tag not in WITHIN:
            self.lines.append("")

    def handle_data(self, data: str) -> None:
        self.lines[-1] += data


def of_template(text: str) -> Iterator[str]:
    """The texts of a template: what it writes, and the words among its expressions."""
    plain, words = "", []
    inside = False
    for _, kind, token in Environment().lex(text):
        if kind == "data":
            plain += token
        elif kind in ("variable_begin", "block_begin"):
            inside = True
            plain += "{}" if kind == "variable_begin" else "|"
        elif kind in ("variable_end", "block_end"):
            inside = False
        elif kind == "string" and inside and _PROSE.search(token):
            words.append(token[1:-1])
    heard = _Heard()
    heard.feed(plain)
    yield from (line for line in heard.lines if _WORDS.search(line))
    yield from words


def of_python(text: str) -> Iterator[str]:
    """The texts of a module: its strings that read as prose, without what documents it and without SQL."""
    tree = ast.parse(text)
    documents = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    parts = {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in node.values}
    found = []
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            words = "".join(str(part.value) if isinstance(part, ast.Constant) else "{}" for part in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in documents | parts:
            words = node.value
        else:
            continue
        if _PROSE.search(words) and not _SQL.match(words):
            found.append((node.lineno, node.col_offset, words))
    yield from (words for *_, words in sorted(found))


def of_script(text: str) -> Iterator[str]:
    """The texts of a script: its strings that read as prose, and are no selector."""
    for quoted, ticked in _QUOTED.findall(re.sub(r"(^|\s)// .*", "", text)):
        words = re.sub(r"\$\{[^}]*\}", "{}", quoted or ticked)
        if _PROSE.search(words) and not _SELECTOR.search(words):
            yield words


_OF_KIND = {".html": of_template, ".js": of_script, ".py": of_python}


def catalogue(asked: Sequence[str] = ("",)) -> str:
    """The texts of all files, or of those whose path holds one of those words."""
    said = []
    for path in sorted(path for path in SOURCE.rglob("*") if path.suffix in _OF_KIND):
        name = path.relative_to(SOURCE).as_posix()
        if path.name.startswith(GENERATED) or LEFT_OUT & set(path.parts) or not any(part in name for part in asked):
            continue
        lines = dict.fromkeys(re.sub(r"\s+", " ", line).strip() for line in _OF_KIND[path.suffix](path.read_text()))
        said += ["\n    ".join((name, *filter(None, lines)))] if any(lines) else []
    return "\n\n".join(said) + "\n"


if __name__ == "__main__":
    if sys.argv[1:]:
        print(catalogue(sys.argv[1:]), end="")
    else:
        CATALOGUE.write_text(catalogue())
        print(f"{CATALOGUE.relative_to(ROOT)} holds them.")
