"""Made-up sheets of every kind, the same ones from the same draw.

Figures are drawn so that every state is met: good ones, dead ones, weak and strong ones, halves that
stand against each other, empty rails, tubes that ran over, windows with one limit or none.
"""

import random
from collections.abc import Callable
from typing import Any, Final

Sheet = dict[str, Any]


class Draw(random.Random):
    """A seeded draw with what sheets need of one; ``labels`` are the engine's injectors."""

    def __init__(self, seed: int) -> None:
        super().__init__(seed)
        self.labels = [str(n) for n in range(1, self.choice((1, 2, 3, 4, 4, 4, 5, 6, 6, 8)) + 1)]

    def maybe(self, chance: float) -> bool:
        """True so often."""
        return self.random() < chance

    def some(self, chance: float, **values: Any) -> dict[str, Any]:
        """Each key so often."""
        return {k: v for k, v in values.items() if self.maybe(chance)}

    def shares(self, bad: float = 0.2) -> dict[str, float]:
        """What each injector gives against a sound one: sound, weak, strong, dead, or two halves."""
        if self.maybe(0.1):
            return {x: 1.0 if n % 2 else 0.75 for n, x in enumerate(self.labels)}
        if self.maybe(0.05):
            return dict.fromkeys(self.labels, self.choice((0.0, 0.8)))
        odd = (0.0, 0.3, 0.75, 0.88, 0.9, 1.11, 1.13, 1.3, 1.8)
        return {
            x: self.choice(odd) if self.maybe(bad) else self.gauss(1.0, 0.015) for x in self.labels
        }

    def read(self, value: float, step: float) -> float:
        """As a gauge of that step shows it."""
        return round(round(max(0.0, value) / step) * step, 6)

    def rule(self, factor: float = 1.0) -> dict[str, Any]:
        """A rule of the table, at times with limits of its own."""
        name = self.choice((
            "flow_index", "flow_index", "flow_index", "plain_mean", "ends_left_out",
            "suspect_left_out", "commonest_drop", "end_pressure", "within_each_other", "modified_z",
            "extreme_studentized", "analysis_of_means",
        ))  # fmt: skip
        made: dict[str, Any] = {"name": name}
        if name in {"flow_index", "suspect_left_out"}:
            made |= self.some(0.3, tolerance_percent=self.choice((5, 8, 15, 20)))
        if name in {"flow_index", "plain_mean", "commonest_drop", "end_pressure"}:
            made |= self.some(0.3, limit=round(self.choice((1.0, 1.5, 2.0)) * factor, 3))
        if name == "ends_left_out":
            made |= self.some(0.3, limit=1.0 * factor, reject=2.5 * factor)
        return made


def _unit(draw: Draw) -> tuple[str, float, float]:
    """A pressure unit, how many of it are one psi, and a gauge's step in it."""
    unit, factor = draw.choice((
        ("psi", 1.0), ("psi", 1.0), ("kPa", 6.894757), ("bar", 0.06894757), ("kgf/cm2", 0.07030696),
    ))  # fmt: skip
    steps = {"psi": (0.1, 0.5, 0.5, 2.0), "kPa": (1.0, 5.0), "bar": (0.01, 0.05, 0.2)}
    return unit, factor, draw.choice(steps.get(unit, (0.01, 0.05)))


def walk_round(draw: Draw) -> Sheet:
    """Ticks: complaint, hose, connectors."""
    words = ("rough_idle", "misfire", "long_crank", "hard_start_cold", "fuel_smell", "none")
    return draw.some(
        0.7, complaint=draw.sample(words, draw.randint(1, 3)),
        hose=draw.choice(("dry", "dry", "damp", "wet")), codes=["P0304"],
        connectors=draw.choice(("good", "good", "loose", "broken")),
    )  # fmt: skip


def supply_pressure(draw: Draw) -> Sheet:
    """Three states of the engine, windows with one limit or two."""
    unit, factor, step = _unit(draw)

    def window(low: float, high: float) -> dict[str, Any]:
        return draw.some(0.85, low=round(low * factor, 3), high=round(high * factor, 3))

    usual = {"key_on": 51.0, "running": 43.0, "hose_off": 51.0}
    read = {k: v * draw.choice((1, 1, 1, 0.94, 0.7, 1.15)) for k, v in usual.items()}
    if draw.maybe(0.03):
        read["key_on"] = 0.0
    return {
        "unit": unit, "gauge": {"step": step},
        **draw.some(0.7, pump=draw.choice((*("runs",) * 12, "clicks_only", "silent"))),
        "windows": draw.some(
            0.8, key_on=window(48, 55), running=window(38, 46), hose_off=window(48, 55)
        ),
        "readings": [
            {"state": k, "value": draw.read(v * factor, step)}
            for k, v in read.items()
            if draw.maybe(0.85)
        ],
    }  # fmt: skip


def hold(draw: Draw) -> Sheet:
    """Holds, leaks, collapses and heat soak, with and without limits; the isolation board."""
    unit, factor, step = _unit(draw)
    rail = draw.choice(("low", "low", "low", "high"))
    k = draw.choice((0.0, 0.0003, 0.003, 0.01, 0.6))
    soak = draw.choice((0.0, 0.0, 3.0))
    times = (0, 10, 60, 300, 600, 1200)[: draw.randint(0, 6)]
    series = [
        {"t_s": t, "value": draw.read(
            (max(0.0, 50.0**0.5 - k * t) ** 2 + soak * min(t, 300) / 300) * factor, step)}
        for t in times
    ]  # fmt: skip
    steps = {
        "low": (("clamp_supply", "holds", "falls"), ("clamp_return", "holds", "falls"),
                ("clamp_both", "holds", "falls"), ("vacuum_hose", "wet", "dry"),
                ("tips", "wet", "dry"), ("outside", "wet", "dry")),
        "high": (("low_side", "rises", "steady"), ("outside", "wet", "dry"), ("tips", "wet", "dry")),
    }[rail]  # fmt: skip
    tried = [{"step": s, "outcome": draw.choice((a, b, b))} for s, a, b in steps if draw.maybe(0.3)]
    window = draw.choice((
        {}, {"lost_at_most": round(5 * factor, 3), "within_s": 60},
        {"left_at_least": round(30 * factor, 3), "after_s": 1200},
        {"lost_at_most": round(5 * factor, 3), "within_s": 60, "left_at_least": round(30 * factor, 3),
         "after_s": 600},
    ))  # fmt: skip
    return {
        "unit": unit, "gauge": {"step": step}, "rail": rail, "window": window, "series": series,
        "isolation": tried, "engine": draw.some(0.6, temperature_c=draw.choice((20, 85))),
    }  # fmt: skip


def _seen(draw: Draw, words: tuple[str, ...]) -> list[dict[str, Any]]:
    return [
        {"injector": x, "seen": words[0] if draw.maybe(0.75) else draw.choice(words)}
        for x in draw.labels
        if draw.maybe(0.9)
    ]


def command(draw: Draw) -> Sheet:
    """A lamp at each plug."""
    return {"readings": _seen(draw, ("blinks", "weak", "dark", "steady"))}


def tip_leak(draw: Draw) -> Sheet:
    """Tips under pressure."""
    return {
        **draw.some(0.5, place="on_car", duration_s=20),
        "readings": _seen(draw, ("dry", "weeps", "drips", "pours")),
    }


def _values(
    draw: Draw, size: float, step: float, blank: tuple[str, ...], bad: float = 0.2
) -> list[dict[str, Any]]:
    """One to three passes of each injector; now and then a mark in place of a figure."""
    made = []
    for label, share in draw.shares(bad).items():
        for number in range(1, draw.choice((1, 1, 1, 2, 3)) + 1):
            if draw.maybe(0.08):
                continue
            row: dict[str, Any] = {"injector": label, "pass": number}
            if blank and draw.maybe(0.06):
                row |= {"value": None, "note": draw.choice(blank)}
            else:
                row["value"] = draw.read(size * share * draw.gauss(1.0, 0.004), step)
            made.append(row)
    return made


def _coils(draw: Draw, size: float, step: float, warm: float) -> Sheet:
    """Coils of either sheet; ``warm`` is what temperature adds to a reading."""
    window = draw.choice((
        {}, {"low": round(0.9 * size, 3), "high": round(1.15 * size, 3)}, {"low": round(0.9 * size, 3)},
        {"spread": round(0.12 * size, 3)},
        {"low": round(0.9 * size, 3), "high": round(1.15 * size, 3), "spread": round(0.2 * size, 3)},
    ))  # fmt: skip
    return {
        "gauge": {"step": step, **draw.some(0.4, lead=step * 2, percent=0.8, counts=2)},
        "window": window,
        "readings": _values(draw, size * warm, step, ("over", "over", "not_read"), 0.15),
        **draw.some(0.2, rule=draw.rule()),
    }


def coil_resistance(draw: Draw) -> Sheet:
    """Coils, cold or warm, with high or low resistance."""
    size, at = draw.choice((12.3, 16.2, 1.6)), draw.choice((None, 20, 35, 88))
    made = _coils(draw, size, 0.1 if size > 2 else 0.01, 1.0 + 0.00393 * ((at or 20) - 20))
    if made["window"] and at is not None:
        made["window"] |= draw.some(0.4, from_c=10, to_c=32)
    return {"unit": "ohm", **made, **({} if at is None else {"temperature_c": at})}


def coil_voltage_drop(draw: Draw) -> Sheet:
    """Coils under one current."""
    return {"unit": "V", **_coils(draw, 5.2, 0.01, 1.0), **draw.some(0.5, current_a=2.5)}


def pressure_drop(draw: Draw) -> Sheet:
    """Bursts of one to three passes; starts that wander, a rail that runs empty, silent ones."""
    unit, factor, step = _unit(draw)
    start, flow = draw.choice(((50.0, 1.95), (46.0, 0.8), (55.0, 3.7), (43.0, 6.3)))
    readings = []
    for label, share in draw.shares().items():
        for number in range(1, draw.choice((1, 1, 1, 2, 3)) + 1):
            if draw.maybe(0.05):
                continue
            first = start + draw.gauss(0.0, draw.choice((0.3, 2.0)))
            second = max(0.0, first**0.5 - flow * share * draw.gauss(1.0, 0.01)) ** 2
            row: dict[str, Any] = {"injector": label, "pass": number}
            if draw.maybe(0.05):
                row |= {"first": draw.read(first * factor, step),
                        "note": draw.choice(("none", "none", "not_read"))}  # fmt: skip
            else:
                one = draw.read(first * factor, step)
                row |= {"first": one, "second": min(one, draw.read(second * factor, step))}
                row |= draw.some(0.05, note="read_late", fires_at=draw.read(20 * factor, step))
            row |= draw.some(0.1, sound=draw.choice(("clicks", "buzzes", "none")))
            readings.append(row)
    return {
        "unit": unit, "gauge": {"step": step}, "rule": draw.rule(factor), "readings": readings,
        **draw.some(0.2, burst={"driven_by": draw.choice(("tester", "controller"))}),
        **draw.some(
            0.2, when=draw.choice(("before_cleaning", "after_cleaning")), neighbour_proven=True,
            supply_v=draw.choice((10.9, 12.0, 12.6, 13.8)),
            expected={"drop": round(draw.choice((24.0, 10.0, 20.0)) * factor, 2)},
        ),
    }  # fmt: skip


def injector_balance_running(draw: Draw) -> Sheet:
    """Rail drops, the engine idling."""
    conditions = draw.some(
        0.5, low_side=draw.choice((60, 60, 60, 60, 40)), lost_in_60_s=draw.choice((1, 1, 1, 1, 6)),
        rail=draw.choice((500, 500, 610, 610, 900)),
    )  # fmt: skip
    return {
        "unit": "psi", "gauge": {"step": 0.01}, "conditions": conditions, "rule": draw.rule(),
        "readings": _values(draw, 25.0, 0.01, ("none", "not_read")),
        **draw.some(0.2, expected={"drop": 25}),
    }  # fmt: skip


def flow_bench(draw: Draw) -> Sheet:
    """Volumes and sprays."""
    readings = _values(draw, 62.0, 0.5, ("none", "not_read"))
    sprays = ("even", "even", "streaky", "stream", "none")
    return {
        "unit": "ml", "gauge": {"step": 0.5}, "rule": draw.rule(),
        "readings": [row | draw.some(0.3, spray=draw.choice(sprays)) for row in readings],
        **draw.some(0.4, when=draw.choice(("before_cleaning", "after_cleaning")), duration_s=30,
                    expected={"drop": 62}),
    }  # fmt: skip


def scan(draw: Draw) -> Sheet:
    """Trims in any pattern, counts of some cylinders, on an engine of one bank."""
    idle, raised = draw.choice(
        ((1, 2), (14, 3), (4, 16), (13, 12), (-15, -4), (-14, -13), (15, -12))
    )
    trims = [
        {"state": state, "long": long} | draw.some(0.7, short=round(draw.gauss(0, 3), 1))
        for state, long in (("idle", idle), ("raised", raised))
        if draw.maybe(0.9)
    ]
    often = draw.choice(((0, 1, 0, 2), (0, 41, 1, 0), (30, 38, 44, 29)))
    counts = [
        {"cylinder": int(x), "count": often[n % 4]}
        for n, x in enumerate(draw.labels)
        if draw.maybe(0.9)
    ]
    return {"trims": trims, **draw.some(0.7, misfires=counts), **draw.some(0.5, over_s=120)}


def correction(draw: Draw) -> Sheet:
    """Corrections in any unit; two starved cylinders push the others the other way."""
    unit = draw.choice(("mm3", "percent", "ms"))
    size, step = (1.1, 0.01) if unit == "ms" else (0.0, 0.1)
    readings = []
    for label, share in draw.shares().items():
        points = size * share if unit == "ms" else draw.gauss(0.0, 0.4) + 20.0 * (1.0 - share)
        row: dict[str, Any] = {"injector": label, "value": round(points, 2 if unit == "ms" else 1)}
        if draw.maybe(0.05):
            row |= {"value": None, "note": "not_read"}
        if draw.maybe(0.95):
            readings.append(row)
    window = draw.some(0.4, apart=0.1 if unit == "ms" else draw.choice((3, 4)))
    return {"unit": unit, "gauge": {"step": step}, "window": window, "readings": readings}


def cranking_balance(draw: Draw) -> Sheet:
    """Humps, typed or from a trace, with and without a sync."""
    shares = draw.shares(0.12)
    traced = draw.maybe(0.5)
    made: Sheet = {"unit": "percent", "gauge": {"step": 1}}
    if not traced or draw.maybe(0.2):
        made["readings"] = [
            {"cylinder": int(x), "value": round(100 * max(s, 0.3))}
            for x, s in shares.items()
            if draw.maybe(0.95)
        ]
    if traced:
        cycles = [
            [round(100 * max(s, 0.3) * draw.gauss(1, 0.03), 1) for s in shares.values()]
            for _ in range(draw.choice((2, 4, 9)))
        ]
        made["trace"] = {"name": "clamp.csv", "samples": 9000, "synced": draw.maybe(0.5),
                         "cycles": cycles}  # fmt: skip
    return made


def return_volume(draw: Draw) -> Sheet:
    """Volumes in tubes: a low group, tubes that ran over, nothing that comes back."""
    readings = []
    for label in draw.labels:
        for number in range(1, draw.choice((1, 1, 2)) + 1):
            row: dict[str, Any] = {"injector": label, "pass": number}
            if draw.maybe(0.08):
                row |= {"value": None, "note": draw.choice(("none", "over", "not_read"))}
            else:
                row["value"] = draw.read(draw.choice((11, 12, 13, 15, 24, 40, 52)), 1)
            readings.append(row)
    timed = draw.choice(({}, {"duration_s": 60}, {"spells_s": [10, 15, 12]}, {"spells_s": [40]}))
    return {
        "unit": "ml", "gauge": {"step": 1}, "readings": readings, **timed,
        **draw.some(0.4, state=draw.choice(("idle", "cranking")), clamped=draw.maybe(0.7), rail=300,
                    window={"high": draw.choice((20, 40))}),
    }  # fmt: skip


def rail_pressure(draw: Draw) -> Sheet:
    """A rail that follows, lies low or high, or surges; one that was watched too short."""
    how = draw.choice(("good", "good", "good", "low", "high", "surges"))
    series, count = [], draw.choice((0, 10, 120, 120))
    for n in range(count):
        off = {"low": -45.0, "high": 50.0, "surges": 48.0 * (1 if n % 8 < 4 else -1)}.get(how, 0.0)
        series.append({"t_s": round(n / 10, 2), "wanted": 300,
                       "actual": round(300 + off + draw.gauss(0, 3), 1)})  # fmt: skip
    read = [
        {"state": state, "wanted": 300, "actual": draw.choice((297, 302, 268, 180, 350))}
        for state in ("cranking", "idle", "raised")
        if draw.maybe(0.2)
    ]
    return {"unit": "bar", "series": series, "readings": read}


def opening_pressure(draw: Draw) -> Sheet:
    """Strokes with settings of shims, seats and sprays; windows of both kinds; a drawer or none."""
    unit, factor, step = draw.choice((("bar", 1.0, 0.5), ("bar", 1.0, 2.0), ("psi", 14.5038, 5.0)))
    readings = []
    for label in draw.labels:
        level, number, shim = 127.0 + draw.choice((0, 0, 0, -9, -4, 7, 12)), 0, 1.0
        for setting in range(draw.choice((1, 1, 1, 2))):
            level, shim = level + 0.05 * 235 * setting, round(shim + 0.05 * setting, 3)
            for _ in range(draw.choice((0, 1, 3, 3))):
                number += 1
                row: dict[str, Any] = {"injector": label, "pass": number}
                if draw.maybe(0.04):
                    row |= {"value": None, "note": draw.choice(("none", "not_read"))}
                else:
                    row["value"] = draw.read((level + draw.gauss(0, 0.7)) * factor, step)
                row |= draw.some(
                    0.25, seat=draw.choice(("dry", "dry", "dry", "damp", "wet")),
                    sound=draw.choice(("chatters", "weak", "silent")),
                    spray=draw.choice(("even", "even", "even", "streaky")),
                )  # fmt: skip
                row |= draw.some(0.7, shim_mm=shim)
                readings.append(row)
    window = draw.choice((
        {}, {"low": 122 * factor, "high": 132 * factor}, {"low": 122 * factor},
        {"low": 122 * factor, "high": 132 * factor, "spread": 5 * factor}, {"spread": 5 * factor},
    ))  # fmt: skip
    return {
        "unit": unit, "gauge": {"step": step}, "window": {k: round(v, 3) for k, v in window.items()},
        "readings": readings, "nozzle": draw.some(0.5, form=draw.choice(("pintle", "hole"))),
        **draw.some(0.6, shims_mm=[0.02, 0.05, 0.1, 0.2],
                    shim_unit=draw.choice(("mm", "mm", "thou")),
                    when=draw.choice(("", "", "after_cleaning"))),
    }  # fmt: skip


SHEETS: Final[dict[str, Callable[[Draw], Sheet]]] = {
    make.__name__: make
    for make in (
        walk_round, scan, supply_pressure, hold, command, coil_resistance, coil_voltage_drop,
        pressure_drop, injector_balance_running, tip_leak, flow_bench, correction, cranking_balance,
        return_volume, rail_pressure, opening_pressure,
    )
}  # fmt: skip
"""How a sheet of each kind is drawn."""
