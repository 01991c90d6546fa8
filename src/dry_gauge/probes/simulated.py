"""Simulated probes: a hub that ships with the application and feeds a visit from a unit on the bench.

It starts the unit, lets it settle as units do, and sends what a set of pressure probes, clamps, air probes, an amp clamp,
a power meter, a scale and a vacuum gauge would show, once a second. It outlives lost connections and restarted servers as
a real hub should.
"""

from __future__ import annotations

import json
import random
import time
import urllib.error
import urllib.request
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from urllib.parse import quote

from dry_gauge.bench.field import nameplate_of
from dry_gauge.bench.instruments import true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Habits, Weather
from dry_gauge.bench.slow import settling
from dry_gauge.bench.solve import solve
from dry_gauge.core.dimensions import unit_for
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, default_half_width_si
from dry_gauge.probes.meter import Meter
from dry_gauge.probes.rig import Rig

COMFORT_PROBES = ("suction_pressure", "liquid_pressure", "suction_line_temp", "liquid_line_temp", "discharge_line_temp",
                  "outdoor_air_temp", "return_air_temp", "return_air_wet_bulb", "supply_air_temp", "compressor_amps",
                  "condenser_leaving_air_temp")  # fmt: skip
STATIC_TIPS = ("external_static_return", "static_after_filter", "static_after_coil", "external_static_supply")
BOX_PROBES = ("suction_pressure", "liquid_pressure", "suction_line_temp", "coil_outlet_temp", "liquid_line_temp",
              "discharge_line_temp", "outdoor_air_temp", "box_air_temp", "compressor_amps", "compressor_suction_temp",
              "condenser_leaving_air_temp")  # fmt: skip
_MOST_KEPT = 20_000
_PATIENCE_SECONDS = 5.0
# A probe repeats itself far better than it is accurate: noise is this share of its half-width.
_NOISE_SHARE = 0.08


@dataclass(frozen=True, slots=True)
class Scene:
    """A unit, its day, and what is wrong with it. Temperatures in F."""

    facts: UnitFacts
    outdoor_f: float = 91.0
    entering_f: float = 75.0
    wet_bulb_f: float | None = 62.5
    wrong: Mapping[str, float] = field(default_factory=dict)
    minutes_running: float = 0.0
    tips: bool = False
    """Whether static tips stand along the way of the air as well."""
    meter: Meter | None = None
    """With it, a power meter on its supply and a rev counter at its blower."""


def steady_readings(scene: Scene) -> dict[str, float]:
    """What every probe shows once the unit has settled, SI.

    Raises
    ------
    ValueError
        If such a unit does not run on such a day.
    """
    machine = Machine([nameplate_of(scene.facts)], Habits.textbook(1))
    wet_f = scene.entering_f - 1.5 if scene.wet_bulb_f is None else scene.wet_bulb_f
    weather = Weather.of([to_kelvin(scene.outdoor_f)], [to_kelvin(scene.entering_f)], [to_kelvin(wet_f)])
    faults = Faults.of(1, **scene.wrong)
    solution = solve(machine, weather, faults)
    if not solution.solved.all():
        raise ValueError("This unit does not run on such a day; change the weather or the faults.")
    shown = true_readings(machine, weather, faults, solution)
    return {name: float(values[0]) for name, values in shown.items() if float(values[0]) == float(values[0])}


def frames(scene: Scene, seed: int = 1, rig: Rig | None = None) -> Iterator[list[dict[str, object]]]:
    """Every second's samples, without their numbers: settling first, then steady with a little noise."""
    rig = rig or Rig()
    steady = steady_readings(scene)
    names: tuple[str, ...] = BOX_PROBES if scene.facts.kind.is_walk_in else COMFORT_PROBES
    names += STATIC_TIPS if scene.tips else ()
    names = tuple(name for name in names if name in steady)
    rest = {name: steady["outdoor_air_temp"] for name in names if name.endswith("temp") and "air" not in name}
    rest |= {name: 0.0 for name in STATIC_TIPS if name in names}
    standing = steady.get("standing_pressure", steady["suction_pressure"])
    rest |= {"suction_pressure": standing, "liquid_pressure": standing, "compressor_amps": 0.0}
    if "supply_air_temp" in steady and "return_air_temp" in steady:
        rest["supply_air_temp"] = steady["return_air_temp"]
    valve = scene.facts.metering is not None and not scene.facts.metering.is_fixed
    chance = random.Random(seed)  # noqa: S311  noise on a gauge
    second = 0
    while True:
        minutes = scene.minutes_running + second / 60
        shown = settling({name: steady[name] for name in names}, rest, minutes, valve=valve)
        lines: list[dict[str, object]] = []
        for i, name in enumerate(names):
            quantity = QUANTITIES[name]
            unit = unit_for(quantity.dimension)
            half = default_half_width_si(quantity, shown[name], scene.facts.atmosphere_pa)
            value = unit.from_si(shown[name] + chance.gauss(0, _NOISE_SHARE * half), scene.facts.atmosphere_pa)
            lines.append(
                {
                    "t": float(second),
                    "probe": f"P{i + 1}",
                    "quantity": name,
                    "value": round(value, 2),
                    "unit": unit.name,
                    "battery": round(max(0.05, 0.9 - 0.07 * i), 2),
                }
            )
        if scene.meter is not None:
            lines += scene.meter.lines(float(second), max(0.0, shown.get("compressor_amps", 0.0)))
        lines += rig.lines(float(second))
        yield lines
        second += 1


@dataclass
class Hub:
    """A hub that keeps what is not acknowledged and sends it again."""

    server: str
    visit: str
    token: str
    name: str = "bench"
    kept: deque[dict[str, object]] = field(default_factory=deque)
    number: int = 0
    acknowledged: int = 0
    lost_through: int = 0
    said: tuple[str, str] = ("off", "")
    """What the visit says of pump and pour."""

    def connect(self) -> dict[str, object]:
        """Where the server stands, and the unit's card as it knows it."""
        answer = self._ask("GET", f"position?hub={quote(self.name)}", None)
        self.acknowledged = self.number = int(str(answer["acknowledged"]))
        self._heard(answer)
        return answer

    def _heard(self, answer: Mapping[str, object]) -> None:
        self.said = str(answer.get("pump", "off")), str(answer.get("pour", ""))

    def add(self, lines: list[dict[str, object]]) -> None:
        """Number and keep one second's samples; the oldest go when the hub is full, and that is said."""
        for line in lines:
            self.number += 1
            self.kept.append({"n": self.number, **line})
        while len(self.kept) > _MOST_KEPT:
            self.lost_through = int(str(self.kept.popleft()["n"]))

    def send(self) -> bool:
        """Send what is not acknowledged; False if the server cannot be reached."""
        listed = list(self.kept)[:2000]
        if self.lost_through > self.acknowledged:
            listed.insert(0, {"n": self.lost_through, "lost_through": self.lost_through})
        body = "\n".join(json.dumps(line) for line in listed).encode()
        try:
            answer = self._ask("POST", f"samples?hub={quote(self.name)}", body)
        except (urllib.error.URLError, OSError, ValueError) as problem:
            if isinstance(problem, urllib.error.HTTPError) and problem.code in (401, 403, 404, 410):
                raise
            return False
        self.acknowledged = int(str(answer["acknowledged"]))
        self._heard(answer)
        while self.kept and int(str(self.kept[0]["n"])) <= self.acknowledged:
            self.kept.popleft()
        return True

    def _ask(self, method: str, path: str, body: bytes | None) -> dict[str, object]:
        request = urllib.request.Request(  # noqa: S310  the address is the user's own server
            f"{self.server}/api/v1/visits/{self.visit}/probes/{path}",
            data=body,
            method=method,
            headers={"authorization": f"Bearer {self.token}", "content-type": "application/x-ndjson"},
        )
        with urllib.request.urlopen(request, timeout=_PATIENCE_SECONDS) as answer:  # noqa: S310
            found: dict[str, object] = json.loads(answer.read())
        return found


def rig_frames(rig: Rig) -> Iterator[list[dict[str, object]]]:
    """Scale and vacuum gauge alone, for a unit that stands still."""
    second = 0
    while True:
        yield rig.lines(float(second))
        second += 1


def run(
    hub: Hub,
    scene: Scene | None,
    rig: Rig,
    seconds: float | None = None,
    say: Callable[[str], None] = print,
    seed: int = 1,
    patience_seconds: float = 3600.0,
) -> None:
    """Feed a visit once a second until told otherwise, through lost connections.

    Parameters
    ----------
    scene : Scene or None
        The unit that runs; None where it stands still, and only scale and vacuum gauge speak.
    seconds : float or None
        How long; None for ever.
    patience_seconds : float
        How long a server may be out of reach before this gives up.
    """
    started, reached = time.monotonic(), True
    heard = started
    for i, lines in enumerate(rig_frames(rig) if scene is None else frames(scene, seed, rig)):
        if seconds is not None and i >= seconds:
            break
        hub.add(lines)
        sent = hub.send()
        rig.follow(*hub.said)
        if sent != reached:
            say("sending again" if sent else f"no connection; {len(hub.kept)} samples wait")
        reached = sent
        heard = time.monotonic() if sent else heard
        if time.monotonic() - heard > patience_seconds:
            say("no server for too long; giving up")
            return
        time.sleep(max(0.0, started + i + 1 - time.monotonic()))
    for _ in range(3):
        if not hub.kept or not hub.send():
            break
