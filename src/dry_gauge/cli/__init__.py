"""The command line: judge sheets and look up saturation without a server or a database; and run an installation with one."""

from __future__ import annotations

import argparse
import csv
import json
import os
import re
import sys
import tempfile
import urllib.error
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any, NoReturn

from dry_gauge.core.dimensions import UNITS, units_of
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import unknown
from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.quantities import FAHRENHEIT_K, FOOT_M, atmospheric_pressure_pa, to_fahrenheit
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.refrigerants.saturation import Saturation, saturation_of
from dry_gauge.core.vocabulary import Fault
from dry_gauge.exchange.assessment import to_json, to_text
from dry_gauge.exchange.reading_sheet import parse_sheet, unit_from
from dry_gauge.exchange.sheet_json import UnitJson
from dry_gauge.probes.meter import SUPPLIES, Meter
from dry_gauge.probes.rig import SYSTEMS, Rig
from dry_gauge.probes.simulated import Hub, Scene
from dry_gauge.probes.simulated import run as run_probes

ANSWERED, SOME_REFUSED, NOTHING_DONE = 0, 1, 2
MOST_ROWS = 100_000


class _Parser(argparse.ArgumentParser):
    """One line on standard error, never a page."""

    def error(self, message: str) -> NoReturn:
        self.exit(NOTHING_DONE, f"{self.prog}: {message} ('{self.prog} --help' shows how)\n")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns its exit status."""
    words = _join_negative_values(sys.argv[1:] if arguments is None else arguments)
    parser = _Parser(prog="dry-gauge", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)

    judge = commands.add_parser("assess", help="judge a reading sheet, or a file of them")
    judge.add_argument("sheet", nargs="?", help="a JSON file, '-' for standard input")
    judge.add_argument("--text", action="store_true", help="in words instead of JSON")
    judge.add_argument("--batch", metavar="IN.jsonl", help="one sheet a line, '-' for standard input")
    judge.add_argument("--out", metavar="OUT.jsonl", default="-", help="one answer a line, '-' for standard output")
    judge.set_defaults(run=_assess)

    look_up = commands.add_parser("saturation", help="pressure to temperature and back")
    look_up.add_argument("refrigerant")
    which = look_up.add_mutually_exclusive_group(required=True)
    which.add_argument("--pressure", metavar="71.2psig")
    which.add_argument("--temperature", metavar="-40F")
    which.add_argument("--csv", nargs=3, type=float, metavar=("FROM", "TO", "STEP"), help="table over F")
    look_up.add_argument("--elevation-ft", type=float, default=0.0)
    look_up.add_argument("--json", action="store_true")
    look_up.set_defaults(run=_saturation)

    if words[:1] not in (["assess"], ["saturation"]):  # a sheet is judged without a database
        from dry_gauge.cli.installation import add_commands

        add_commands(commands)

    probe = commands.add_parser("probes", help="simulated probes that feed a visit, from a unit on the bench")
    probe.add_argument("--server", default="http://127.0.0.1:8000")
    probe.add_argument("--visit", required=True, help="the visit's id")
    probe.add_argument("--token", required=True, help="from the visit's page, under 'Connect'")
    probe.add_argument("--unit", help="a JSON file with the 'unit' block of a reading sheet; else the visit's own card")
    probe.add_argument("--hub", default="bench")
    probe.add_argument("--fault", action="append", default=[], metavar="NAME=SIZE", help="such as undercharge=0.4")
    probe.add_argument("--outdoor", type=float, default=91.0, metavar="F")
    probe.add_argument("--entering", type=float, default=75.0, metavar="F", help="return or box air")
    probe.add_argument("--wet-bulb", type=float, metavar="F")
    probe.add_argument("--minutes-running", type=float, default=0.0)
    probe.add_argument("--tips", action="store_true", help="static tips along the way of the air as well")
    probe.add_argument("--meter", type=int, choices=(1, 3), metavar="PHASES", help="a power meter and a rev counter as well")
    probe.add_argument("--supply", choices=SUPPLIES, default="sound", help="what the power meter finds")
    probe.add_argument("--slip", type=float, default=0.0, metavar="SHARE", help="of the blower's belt, such as 0.08")
    probe.add_argument("--unit-off", action="store_true", help="the unit stands still: scale and vacuum gauge only")
    probe.add_argument("--cylinder", type=float, default=10.4, metavar="KG", help="what the scale shows at first")
    probe.add_argument("--pour", type=float, default=0.5, metavar="KG_A_MINUTE", help="how fast, once a pour is on")
    probe.add_argument("--pour-most", type=float, default=1.5, metavar="KG", help="what a pour moves at the most")
    probe.add_argument("--vacuum", choices=sorted(SYSTEMS), help="a vacuum gauge, on a system of that sort")
    probe.add_argument("--hold", type=float, metavar="PSIG", help="gauge and pipe clamp of a system under nitrogen")
    probe.add_argument("--hold-loss", type=float, default=0.0, metavar="PSI_AN_HOUR")
    probe.add_argument("--seconds", type=float, help="how long; without it until Ctrl-C")
    probe.add_argument("--patience", type=float, default=3600.0, help="seconds without a server before it gives up")
    probe.set_defaults(run=_probes)

    options = parser.parse_args(words)
    try:
        return int(options.run(options))
    except Refused as refusal:
        where = f"{refusal.path}: " if refusal.path else ""
        return _fail(f"{where}{refusal.message}")
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return NOTHING_DONE
    except OSError as error:
        return _fail(f"{error.filename or 'file'}: {error.strerror}")


def _join_negative_values(arguments: Sequence[str]) -> list[str]:
    """`--temperature -40F` as `--temperature=-40F`: argparse takes a leading minus for an option."""
    joined: list[str] = []
    for argument in arguments:
        if joined and joined[-1] in ("--temperature", "--pressure") and re.match(r"-[\d.]", argument):
            joined[-1] += f"={argument}"
        else:
            joined.append(argument)
    return joined


def _fail(message: str) -> int:
    print("dry-gauge: " + " ".join(message.split()), file=sys.stderr)
    return NOTHING_DONE


# -- assess -----------------------------------------------------------------


def _assess(options: argparse.Namespace) -> int:
    if options.batch:
        return _batch(options.batch, options.out)
    if not options.sheet:
        return _fail("name a sheet, or '-' for standard input")
    raw = sys.stdin.buffer.read() if options.sheet == "-" else Path(options.sheet).read_bytes()
    assessment = assess(parse_sheet(raw))
    print(to_text(assessment) if options.text else json.dumps(to_json(assessment), indent=2, ensure_ascii=False))
    return ANSWERED


def _batch(source: str, target: str) -> int:
    answered = refused = 0
    with _opened(source) as lines, _written_aside(target) as out:
        for answer in _answers(lines):
            out.write(json.dumps(answer, ensure_ascii=False) + "\n")
            answered += "error" not in answer
            refused += "error" in answer
    print(f"dry-gauge: {answered} answered, {refused} refused", file=sys.stderr)
    if not answered and not refused:
        return NOTHING_DONE
    return SOME_REFUSED if refused else ANSWERED


def _answers(lines: Iterable[bytes]) -> Iterator[dict[str, Any]]:
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        try:
            yield {**to_json(assess(parse_sheet(line))), "line": number}
        except Refused as refusal:
            yield {"line": number, "error": refusal.message, "path": refusal.path or None, "nearest": list(refusal.nearest)}


@contextmanager
def _opened(source: str) -> Iterator[Iterable[bytes]]:
    if source == "-":
        yield sys.stdin.buffer
    else:
        with Path(source).open("rb") as file:
            yield file


@contextmanager
def _written_aside(target: str) -> Iterator[IO[str]]:
    """A file that appears under its name only when complete."""
    if target == "-":
        yield sys.stdout
        return
    path = Path(target)
    with tempfile.NamedTemporaryFile("w", dir=path.parent, prefix=f".{path.name}.", encoding="utf-8", delete=False) as out:
        try:
            yield out
            out.flush()
            os.fsync(out.fileno())
        except BaseException:
            Path(out.name).unlink(missing_ok=True)
            raise
    os.chmod(out.name, 0o644)
    os.replace(out.name, path)


# -- probes -----------------------------------------------------------------


def _probes(options: argparse.Namespace) -> int:
    hub = Hub(options.server.rstrip("/"), options.visit, options.token, options.hub)
    try:
        answer = hub.connect()
    except urllib.error.HTTPError as problem:
        return _fail(f"the server answered {problem.code}: is the token of this visit, and not over?")
    except (urllib.error.URLError, ValueError) as problem:
        return _fail(f"no server at {options.server}: {getattr(problem, 'reason', problem)}")
    card = json.loads(Path(options.unit).read_bytes()) if options.unit else answer["unit"]
    try:
        facts = unit_from(UnitJson.model_validate(card, strict=False))
        wrong = dict(_fault(text) for text in options.fault)
        scene = Scene(
            facts,
            options.outdoor,
            options.entering,
            options.wet_bulb,
            wrong,
            options.minutes_running,
            options.tips,
            Meter(options.meter, options.supply, options.slip) if options.meter else None,
        )
        rig = Rig(options.cylinder, options.pour, options.pour_most, SYSTEMS.get(options.vacuum), options.hold, options.hold_loss)
        print(f"Feeding {answer['tag']} once a second; Ctrl-C stops.", flush=True)
        run_probes(hub, None if options.unit_off else scene, rig, options.seconds, patience_seconds=options.patience)
    except ValueError as problem:
        return _fail(str(problem))
    except urllib.error.HTTPError as problem:
        return _fail(f"the server answered {problem.code} and wants no more samples")
    except KeyboardInterrupt:
        print()
    return ANSWERED


def _fault(text: str) -> tuple[str, float]:
    name, _, size = text.partition("=")
    if name not in {fault.value for fault in Fault if fault is not Fault.NONE}:
        raise unknown("fault", name, [fault.value for fault in Fault if fault is not Fault.NONE], "--fault")
    try:
        return name, min(max(float(size or "0.5"), 0.0), 1.0)
    except ValueError:
        raise Refused(f"{size!r} is no size between 0 and 1.", "--fault") from None


# -- saturation -----------------------------------------------------------------


def _saturation(options: argparse.Namespace) -> int:
    if not -1500 <= options.elevation_ft <= 20_000:
        raise Refused(f"{options.elevation_ft:g} is not an elevation between -1,500 and 20,000 ft.", "--elevation-ft")
    saturation = saturation_of(find(options.refrigerant))
    atmosphere_pa = atmospheric_pressure_pa(options.elevation_ft * FOOT_M)
    if options.csv:
        return _table(saturation, atmosphere_pa, *options.csv)
    if options.pressure is not None:
        answer = _at_pressure(saturation, _si(options.pressure, "pressure", "psig", atmosphere_pa), atmosphere_pa)
    else:
        answer = _at_temperature(saturation, _si(options.temperature, "temperature", "F", atmosphere_pa), atmosphere_pa)
    if options.json:
        print(json.dumps(answer))
    else:
        for name, value in answer.items():
            print(f"{name:20} {value:.2f}" if isinstance(value, float) else f"{name:20} {value}")
    return ANSWERED


_NUMBER = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(\S*)\s*")


def _si(text: str, dimension: str, default_unit: str, atmosphere_pa: float) -> float:
    match = _NUMBER.fullmatch(text)
    if not match:
        raise Refused(f"{text!r} is not a number with a unit, such as 71.2{default_unit}.", f"--{dimension}")
    names = {name.lower(): name for name in units_of(dimension)}
    unit = names.get(match[2].lower()) if match[2] else default_unit
    if unit is None:
        raise Refused(f"{match[2]!r} is not a unit of {dimension}; use {', '.join(names.values())}.", f"--{dimension}")
    value_si = UNITS[unit].to_si(float(match[1]), atmosphere_pa)
    if dimension == "pressure" and value_si <= 0:
        raise Refused(f"{text} is an absolute pressure of zero or less.", "--pressure")
    if dimension == "temperature" and value_si < 0:
        raise Refused(f"{text} is below absolute zero.", "--temperature")
    return value_si


def _psig(pressure_pa: float, atmosphere_pa: float) -> float:
    return UNITS["psig"].from_si(pressure_pa, atmosphere_pa)


def _at_pressure(saturation: Saturation, pressure_pa: float, atmosphere_pa: float) -> dict[str, Any]:
    dew_k, bubble_k = saturation.dew_temperature_k(pressure_pa), saturation.bubble_temperature_k(pressure_pa)
    return {
        "refrigerant": saturation.refrigerant.name,
        "pressure_psig": _psig(pressure_pa, atmosphere_pa),
        "dew_f": to_fahrenheit(dew_k),
        "bubble_f": to_fahrenheit(bubble_k),
        "mean_f": to_fahrenheit(saturation.condensing_mean_k(pressure_pa)),
        "evaporating_mean_f": to_fahrenheit(saturation.evaporating_mean_k(pressure_pa)),
        "glide_f": saturation.glide_k(pressure_pa) / FAHRENHEIT_K,
        "estimated": saturation.refrigerant.estimated,
    }


def _at_temperature(saturation: Saturation, temperature_k: float, atmosphere_pa: float) -> dict[str, Any]:
    return {
        "refrigerant": saturation.refrigerant.name,
        "temperature_f": to_fahrenheit(temperature_k),
        "dew_psig": _psig(saturation.dew_pressure_pa(temperature_k), atmosphere_pa),
        "bubble_psig": _psig(saturation.bubble_pressure_pa(temperature_k), atmosphere_pa),
        "estimated": saturation.refrigerant.estimated,
    }


def _table(saturation: Saturation, atmosphere_pa: float, start_f: float, stop_f: float, step_f: float) -> int:
    if not step_f > 0 or not stop_f >= start_f:
        raise Refused("the step must be above zero and TO not below FROM.", "--csv")
    # Ends included: the tolerance is for steps such as 0.1 that binary numbers do not hit exactly.
    rows = int((stop_f - start_f) / step_f + 1e-9) + 1 if (stop_f - start_f) / step_f < MOST_ROWS else MOST_ROWS + 1
    if rows > MOST_ROWS:
        raise Refused(f"that is over {MOST_ROWS:,} rows; take a larger step.", "--csv")
    temperatures = [start_f + i * step_f for i in range(rows)]
    if temperatures[-1] < stop_f - 1e-9:
        temperatures.append(stop_f)
    lines = []
    for temperature_f in temperatures:
        at = _at_temperature(saturation, UNITS["F"].to_si(temperature_f), atmosphere_pa)
        lines.append((f"{temperature_f:.10g}", f"{at['dew_psig']:.4f}", f"{at['bubble_psig']:.4f}"))
    writer = csv.writer(sys.stdout, lineterminator="\n")
    writer.writerow(("temperature_f", "dew_psig", "bubble_psig"))
    writer.writerows(lines)
    return ANSWERED
