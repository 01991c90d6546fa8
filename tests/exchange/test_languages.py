"""Languages of what owners read: every file says everything, with nothing of the trade in it, and easily."""

from __future__ import annotations

import re
from datetime import date

import pyphen
import pytest
from fluent.runtime import FluentResource
from fluent.syntax import ast
from fluent.syntax.visitor import Visitor

from dry_gauge.core.charge.mass import OUNCE_KG
from dry_gauge.core.reading_ease import counts, fernandez_huerta, flesch_kincaid_grade
from dry_gauge.core.sealed.leak_search import BY_CODE
from dry_gauge.core.statements import Amount, Money, Share, Statement
from dry_gauge.core.visit.complaints import Complaint
from dry_gauge.core.visit.findings import FINDINGS
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.exchange.language import FOLDER, language_named, languages
from dry_gauge.notebook.subjects.actions import ActionSort
from dry_gauge.notebook.subjects.agenda import FollowUpSort
from dry_gauge.notebook.subjects.closing import Outcome
from dry_gauge.notebook.subjects.leak import CURE_WORDS
from dry_gauge.notebook.subjects.movements import MOVEMENT_WORDS
from dry_gauge.present.owner_report import ADVICE, GAPS
from tests.notebook.every_kind import OBSTACLES

NEEDED = {
    *(f"cause-{fault.value}" for fault in Fault), *(f"seen-{what}" for what in FINDINGS),
    *(f"was-{fault.value}" for fault in Fault if fault is not Fault.NONE),
    *(f"place-{code}" for code in BY_CODE),
    *(f"did-{sort.value}" for sort in ActionSort), *(f"cured-{cure}" for cure in CURE_WORDS), *(f"gap-{gap}" for gap in GAPS),
    *(f"outcome-{outcome.value}" for outcome in Outcome), *(f"asked-{sort.value}" for sort in Complaint),
    *(f"moved-{way.value}" for way in MOVEMENT_WORDS), *(f"next-{sort.value}" for sort in FollowUpSort),
    *(f"open-{code}" for code in OBSTACLES), *(f"advice-{name}" for name in ADVICE),
    *(f"held-{verdict}" for verdict in ("tight", "leaking", "too_soon", "gain")),
}  # fmt: skip
# Words that an owner is not asked to know. Names of refrigerants stand in brackets, as the label has them.
OF_THE_TRADE = re.compile(
    r"\b(TXV|EXV|TEV|EEV|SH|SC|TD|DTD|CTOA|RLA|FLA|LRA|MCA|MOCP|psig?|in\.? ?w\.?c|inHg|CFM|SEER2?|EER2?|TR|HP|LP|HPS|LPS"
    r"|RTU|AHU|ECM|PSC"
    r"|OD|ID|WB|DB|GWP|POE|PVE|N2|kPa|micron\w*|superheat|subcool\w*|evaporator|condenser|plenum|recalentamiento|subenfriamiento"
    r"|evaporador\w*|condensador\w*|válvula de expansión)\b"
)  # fmt: skip


class _Needs(Visitor):
    def __init__(self) -> None:
        self.names: set[str] = set()

    def visit_VariableReference(self, node: ast.VariableReference) -> None:
        self.names.add(node.id.name)


def sentences(code):
    """Each sentence of a file with the names of what goes into it."""
    found = {}
    for entry in FluentResource((FOLDER / f"{code}.ftl").read_text()).body:
        if isinstance(entry, ast.Message):
            needs = _Needs()
            needs.visit(entry.value)
            assert entry.id.name not in found, f"{entry.id.name} stands twice"
            found[entry.id.name] = needs.names
        else:
            assert isinstance(entry, ast.BaseComment), entry  # junk is a mistyped line
    return found


def test_every_language_says_everything_with_the_same_in_it():
    usual = sentences("en")
    assert usual.keys() >= NEEDED
    assert set(languages()) >= {"en", "es"}
    for code in languages():
        assert sentences(code) == usual


@pytest.mark.parametrize("code", languages())
def test_no_sentence_of_ours_has_a_trade_word_in_it(code):
    lines = (FOLDER / f"{code}.ftl").read_text().splitlines()
    text = "\n".join(line.partition(" = ")[2] for line in lines if not line.startswith("#"))
    assert OF_THE_TRADE.findall(text) == []


def test_numbers_days_and_money_are_written_as_they_are_there():
    english, spanish = language_named("en"), language_named("es")
    metric = Reader("C", weight_unit="kg")
    band = Statement("between", {"low": Amount("difference", 8, bare=True), "high": Amount("difference", 12)})
    assert english.tell(band) == "14.4 to 21.6 °F"
    assert spanish.tell(band, metric) == "8.0 a 12.0 °C"
    assert english.tell(Statement("about", {"aim": Amount("difference", 10, 0.5)})) == "about 18.0 °F ±0.9"
    assert "9.0 oz" in english.tell(Statement("moved-added", {"amount": Amount("weight", 9 * OUNCE_KG), "fluid": "R-32"}))
    assert english.tell(Statement("how-sure", {"share": Share(0.934)})) == "We are about 93% sure of this."
    assert spanish.tell(Statement("next-return", {"day": date(2026, 12, 1)})) == "Volvemos el 1 de diciembre de 2026 a seguir."
    assert english.money(123456, "usd") == "$1,234.56"
    assert english.money(-500, "") == "-5.00"
    assert english.tell(Statement("in-our-words", {"words": Money(99)}), currency="EUR") == "Our note: €0.99"


def test_a_sentence_that_lacks_something_is_an_error_and_not_a_hole():
    with pytest.raises(KeyError, match="day"):
        language_named("en").say("next-return")
    with pytest.raises(KeyError, match="no-such"):
        language_named("es").say("no-such")
    assert language_named("xx").code == "en"


# -- reading ease ----------------------------------------------------------

_HYPHENS = {"en": pyphen.Pyphen(lang="en_US", left=1, right=1), "es": pyphen.Pyphen(lang="es", left=1, right=1)}
_VOWELS = re.compile("[aeiouyáéíóúü]+")


def syllables_of(code):
    """Of one word: by hyphenation, and in English not fewer than its groups of vowels without a last e."""

    def count(word):
        word = word.lower()
        parts = _HYPHENS[code].inserted(word).count("-") + 1
        if code == "es":
            return parts
        groups = len(_VOWELS.findall(word))
        return max(parts, groups - (word.endswith("e") and not word.endswith("le") and groups > 1))

    return count


def reading_ease(code, text):
    """English in school years, Spanish by its own scale."""
    found = counts(text, syllables_of(code))
    return flesch_kincaid_grade(found) if code == "en" else fernandez_huerta(found)


def test_the_formulas_tell_hard_from_easy():
    easy = "The cat sat on the mat. It was warm."
    hard = "Contemporary thermodynamic considerations necessitate comprehensive evaluation."
    assert reading_ease("en", easy) < 2 < 15 < reading_ease("en", hard)
    line = "El equipo tiene poco gas y por eso no da frío en la tarde de hoy."
    assert counts(line, len).words == 16
    assert reading_ease("es", line) > 90 > 40 > reading_ease("es", "Consideraciones termodinámicas imprescindibles.")
    with pytest.raises(ValueError, match="no words"):
        flesch_kincaid_grade(counts("12 34", len))


@pytest.mark.parametrize("code", ["en", "es"])
def test_all_our_sentences_together_read_easily(code):
    language = language_named(code)
    filled = {"share": Share(0.9), "day": date(2026, 12, 1), "amount": Amount("weight", 1.0), "fluid": "R-32"}
    said = []
    for key, needs in sentences(code).items():
        values = {name: filled.get(name, "") for name in needs}
        said.append(language.tell(Statement(key, values)))
    ease = reading_ease(code, "\n".join(said))
    assert ease <= 8 if code == "en" else ease >= 60
