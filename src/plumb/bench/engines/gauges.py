"""What the gauges read on a hidden engine: a sheet of any kind, with the scatter of the real thing."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Final

import numpy as np

from plumb.bench.engines.hidden import Hidden, Rng
from plumb.bench.rail import Rail
from plumb.core.compare.drops.expected import Expected
from plumb.core.compare.drops.sheet import DropSheet
from plumb.core.compare.rules import RuleChoice
from plumb.core.compare.seen import SeenSheet
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.readings import Mark, Noted, Seen, Value, Window
from plumb.core.procedures import (
    COIL_RESISTANCE,
    COIL_VOLTAGE,
    COMMAND,
    CORRECTION,
    CRANKING,
    DROP,
    FLOW_BENCH,
    HOLD,
    OPENING,
    RAIL,
    RETURNS,
    RUNNING,
    SCAN,
    SUPPLY,
    TIPS,
    WALK,
    Sheet,
)
from plumb.core.procedures.coils.analysis import CoilSheet, Meter
from plumb.core.procedures.correction.analysis import CorrectionSheet
from plumb.core.procedures.cranking.analysis import CrankingSheet
from plumb.core.procedures.hold.analysis import DUE, HoldSheet, Limits
from plumb.core.procedures.hold.isolation import STEPS
from plumb.core.procedures.opening.analysis import OpeningSheet, Stroke
from plumb.core.procedures.rail.analysis import RailSheet
from plumb.core.procedures.returns.analysis import ReturnSheet
from plumb.core.procedures.scan.analysis import ScanSheet, Trim
from plumb.core.procedures.supply.analysis import SupplySheet
from plumb.core.procedures.walk.analysis import LOOKED_AT, WalkSheet

PSI: Final = KPA_PER["psi"]
_USUAL_KPA: Final = {"port": 300.0, "throttle_body": 100.0, "direct": 400.0, "common_rail": 400.0}
_HOLD_LOW: Final = Limits(lost_at_most=70.0, within_s=1200.0)
_HOLD_HIGH: Final = Limits(left_at_least=10_000.0, after_s=60.0)
_WINDOW: Final = Window(low=16_500.0, high=18_500.0)


class Bench:
    """An engine on the bench: its gauges, and the sheets that were taken so far, oldest first."""

    def __init__(self, engine: Hidden, rng: Rng) -> None:
        self.engine, self.rng = engine, rng
        self.labels = tuple(str(n + 1) for n in range(engine.count))
        self.sheets: list[Sheet] = []
        self.rule = ""
        self._bursts: dict[str, list[Noted]] = {}
        self._closed = 0

    def take(
        self,
        kind: str,
        injectors: tuple[str, ...],
        passes: int = 1,
        isolation: str = "",
        *,
        again: bool = False,
    ) -> None:
        """Do what a step asks for: a new sheet, or more on the one that is there."""
        if isolation:
            self._isolate(isolation)
        else:
            if again:
                self._bursts.pop(kind, None)
            self._keep(_GAUGES[kind](self, injectors or self.labels, passes), again=again)

    def closes(self) -> None:
        """Something is repaired: what is read from now on stands on sheets of its own."""
        self._closed = len(self.sheets)
        self._bursts.clear()

    def _last(self, kind: str) -> Sheet | None:
        mine = self.sheets[self._closed :]
        return next((s for s in reversed(mine) if s.kind == kind), None)

    def _keep(self, sheet: Sheet, *, again: bool = False) -> None:
        """What is read on is the same sheet; anything else that is done again is a new one."""
        last = self._last(sheet.kind)
        read_on = isinstance(sheet, DropSheet | SeenSheet | OpeningSheet | HoldSheet)
        if last is not None and read_on and not again:
            self.sheets[next(n for n, s in enumerate(self.sheets) if s is last)] = sheet
        else:
            self.sheets.append(sheet)

    def _noise(self, sigma: float) -> float:
        return float(self.rng.normal(0.0, sigma))

    def walk(self, _who: tuple[str, ...], _passes: int) -> Sheet:
        """The walk-round: everything that is seen is noted."""
        engine = self.engine
        looked = LOOKED_AT[engine.system]
        return WalkSheet(
            complaint=tuple(sorted(engine.words)) or ("none",),
            hose=engine.hose if "hose" in looked else "",
            connectors="good" if "connectors" in looked else "",
            looked_at=looked,
        )

    def supply(self, _who: tuple[str, ...], _passes: int) -> Sheet:
        """The supply, with the key on and while it runs or is cranked."""
        engine = self.engine
        usual = _USUAL_KPA[engine.system]
        hosed = engine.system in {"port", "throttle_body"} and engine.starts
        states = {"key_on": 1.0, "running" if engine.starts else "cranking": 0.85 if hosed else 1.0}
        if hosed:
            states["hose_off"] = 1.0 if engine.answers else 0.85
        windows = tuple(
            (s, Window(low=0.9 * usual * f, high=1.1 * usual * f)) for s, f in states.items()
        )
        if engine.pump == "silent":
            return SupplySheet(
                readings=(("key_on", 0.0),), step=3.4, windows=windows, pump="silent"
            )
        read = tuple(
            (s, round((usual * f * engine.supply + self._noise(2.0)) / 2.0) * 2.0)
            for s, f in states.items()
        )
        return SupplySheet(readings=read, step=2.0, windows=windows, pump="runs")

    def _lost(self, clamped: frozenset[str] = frozenset()) -> float:
        """What the rail loses in a minute with some ways closed, kPa."""
        engine = self.engine
        ways = sum(rate for name, rate in engine.leaks.items() if name not in clamped)
        return ways + sum(engine.leak)

    def hold(self, _who: tuple[str, ...], _passes: int) -> Sheet:
        """The rail shut off and watched until the last reading that is due."""
        engine = self.engine
        high = engine.system == "common_rail"
        start = 25_000.0 if high else _USUAL_KPA[engine.system]
        lost = self._lost() + (4_000.0 if high else 0.0)
        if high:
            lost += 3_000.0 * sum(b > 30.0 for b in engine.back)
        step = 100.0 if high else 2.0
        rail = "high" if high else "low"
        series = []
        for t in DUE[rail]:
            left = start * float(np.exp(-lost * t / 60.0 / start))
            soak = 40.0 * (1.0 - np.exp(-t / 300.0)) if engine.hot and not high else 0.0
            series.append((t, max(0.0, round((left + soak + self._noise(step / 4)) / step) * step)))
        return HoldSheet(
            series=tuple(series), step=step, limits=_HOLD_HIGH if high else _HOLD_LOW, rail=rail
        )

    def _isolate(self, step: str) -> None:
        """One step of the board on the hold that is there."""
        sheet = self._last(HOLD.code)
        assert isinstance(sheet, HoldSheet)  # noqa: S101 (the next step asks for none before)
        engine = self.engine
        wet = {
            "vacuum_hose": engine.hose == "wet",
            "outside": bool({"outside_leak", "unions"} & engine.leaks.keys()),
            "tips": max(engine.leak) > 0.0,
            "low_side": "pump_outlet_valve" in engine.leaks,
        }
        clamps = {
            "clamp_return": {"regulator"},
            "clamp_supply": {"supply_check_valve"},
            "clamp_both": {"regulator", "supply_check_valve"},
        }
        outcomes = list(next(s for s in STEPS[sheet.rail] if s.code == step).leaves)
        if step in clamps:
            seen = "holds" if self._lost(frozenset(clamps[step])) < 3.5 else "falls"
        else:
            seen = next(o for o in outcomes if (o in {"wet", "rises"}) == wet[step])
        self._keep(replace(sheet, isolation=(*sheet.isolation, (step, seen))))

    def command(self, who: tuple[str, ...], _passes: int) -> Sheet:
        """The lamp at each plug."""
        return self._seen(COMMAND.code, who, lambda k: self.engine.lamp[k])

    def tips(self, who: tuple[str, ...], _passes: int) -> Sheet:
        """The tips under pressure."""

        def word(k: int) -> str:
            leak = self.engine.leak[k]
            limits = ((1000.0, "pours"), (9.0, "drips"), (0.5, "weeps"))
            return next((w for least, w in limits if leak >= least), "dry")

        return self._seen(TIPS.code, who, word)

    def _seen(self, kind: str, who: tuple[str, ...], word: Callable[[int], str]) -> Sheet:
        old = self._last(kind)
        before = old.readings if isinstance(old, SeenSheet) else ()
        new = tuple(Seen(injector=x, word=word(int(x) - 1)) for x in who)
        return SeenSheet(kind=kind, injectors=self.labels, readings=(*before, *new))

    def coils(self, kind: str) -> Sheet:
        """The coils by resistance, or their volts under load."""
        volts = kind == COIL_VOLTAGE.code

        def values() -> Iterator[Value]:
            for n, label in enumerate(self.labels):
                ohm = self.engine.coil[n]
                if np.isinf(ohm):
                    yield Value(injector=label, number=1, value=None, mark=Mark.OVER)
                else:
                    shown = round((ohm * (0.5 if volts else 1.0) + self._noise(0.02)) / 0.01) * 0.01
                    yield Value(injector=label, number=1, value=shown)

        half = 0.5 if volts else 1.0
        return CoilSheet(
            kind=kind, injectors=self.labels, readings=tuple(values()), meter=Meter(step=0.01),
            window=Window(low=11.0 * half, high=14.0 * half), temperature_c=None if volts else 20.0,
        )  # fmt: skip

    def drop(self, who: tuple[str, ...], passes: int) -> Sheet:
        """Bursts on a rail with its engine off; what was read before stays."""
        engine = self.engine
        fine = 0.2 if engine.system == "throttle_body" else 1.0
        old = self._bursts.setdefault(DROP.code, [])
        start = 50.0 if engine.system != "throttle_body" else 14.0
        rail = Rail(start=start, end=0.52 * start)
        for label in who:
            for _ in range(passes):
                number = 1 + sum(r.injector == label for r in old)
                one = self._burst(label, number, rail, fine * engine.step_psi)
                old.append(replace(one, supply_v=engine.tester_v))
        expected = None
        if engine.count < 3 or "all_clogged" in engine.causes:
            expected = Expected(drop=0.48 * start * PSI, source="maker")
        return DropSheet(
            kind=DROP.code, injectors=self.labels, readings=tuple(old), step=fine * engine.step_psi * PSI,
            expected=expected, supply_v=engine.tester_v,
            rule=RuleChoice(name=self.rule or "flow_index"),
        )  # fmt: skip

    def _burst(self, label: str, number: int, rail: Rail, step: float) -> Noted:
        k = int(label) - 1
        engine, first = self.engine, rail.start + self._noise(0.7)
        state, flow = engine.state[k], engine.flow[k]
        asleep = state == "shut" or (engine.tester_v < 11.0 and self.rng.random() < 0.25)
        late = state == "weak" and number == 1
        first = round(first / step) * step
        if asleep or (late and self.rng.random() < 0.4):
            return Noted(injector=label, number=number, first=first * PSI, mark=Mark.NONE)
        if state == "now_and_then" and self.rng.random() < 0.5:
            flow *= 0.45
        if state == "weak":
            flow *= 0.7
        second = rail.second(first, flow * (1.0 + self._noise(0.01)))
        second = max(0.0, round(second / step) * step)
        fires = 0.6 * first * PSI if late and self.rng.random() < 0.5 else None
        return Noted(
            injector=label, number=number, first=first * PSI, second=second * PSI, fires_at=fires
        )

    def running(self, who: tuple[str, ...], passes: int) -> Sheet:
        """Rail drops while it idles: the controller opens what its driver lets it."""
        engine = self.engine
        old = self._bursts.setdefault(RUNNING.code, [])
        for label in who:
            for _ in range(passes):
                k = int(label) - 1
                silent = engine.state[k] == "shut" or engine.lamp[k] in {"dark", "steady"}
                drop = 0.0 if silent else 20.0 * engine.flow[k] * (1.0 + self._noise(0.012))
                if engine.state[k] in {"weak", "now_and_then"}:
                    drop *= float(self.rng.uniform(0.4, 0.9))
                mark = Mark.NONE if silent else None
                second = None if silent else (500.0 - round(drop / 0.5) * 0.5) * PSI
                number = 1 + sum(r.injector == label for r in old)
                read = Noted(
                    injector=label, number=number, first=500.0 * PSI, second=second, mark=mark
                )
                old.append(read)
        return DropSheet(
            kind=RUNNING.code, injectors=self.labels, readings=tuple(old), step=0.5 * PSI
        )

    def flow_bench(self, who: tuple[str, ...], passes: int) -> Sheet:
        """Volumes off the car; everything is opened by the bench."""
        engine, old = self.engine, self._bursts.setdefault(FLOW_BENCH.code, [])
        for label in who:
            for _ in range(passes):
                k = int(label) - 1
                number = 1 + sum(r.injector == label for r in old)
                if engine.state[k] == "shut":
                    old.append(Noted(injector=label, number=number, mark=Mark.NONE))
                    continue
                volume = 60.0 * engine.flow[k] * (0.7 if engine.state[k] == "weak" else 1.0)
                volume, spray = round(volume * (1.0 + self._noise(0.005))), engine.spray[k]
                one = Noted(injector=label, number=number, first=volume, second=0.0, spray=spray)
                old.append(one)
        return DropSheet(
            kind=FLOW_BENCH.code, injectors=self.labels, readings=tuple(old), step=1.0, linear=True,
            expected=Expected(drop=60.0, source="maker"),
        )  # fmt: skip

    def correction(self, _who: tuple[str, ...], _passes: int) -> Sheet:
        """What the controller gives each cylinder: little flow or compression asks for more."""
        engine = self.engine
        wants = [
            30.0 * (1.0 - f) + 0.25 * max(0.0, 97.0 - h) for f, h in zip(engine.flow, engine.hump, strict=True)
        ]  # fmt: skip
        sway = 4.0 if engine.rail == "surges" else 0.25
        middle = sum(wants) / len(wants)
        return CorrectionSheet(
            injectors=self.labels, step=0.1, unit="mm3",
            readings=tuple(
                Value(injector=x, number=1, value=round(w - middle + self._noise(sway), 1))
                for x, w in zip(self.labels, wants, strict=True)
            ),
        )  # fmt: skip

    def cranking(self, _who: tuple[str, ...], _passes: int) -> Sheet:
        """The humps of starter current, in per cent of the highest."""
        humps = zip(self.labels, self.engine.hump, strict=True)
        return CrankingSheet(
            cylinders=tuple((x, float(round(h + self._noise(1.0)))) for x, h in humps), step=1.0
        )

    def returns(self, _who: tuple[str, ...], _passes: int) -> Sheet:
        """What comes back, at idle or while it is cranked."""
        engine, share = self.engine, 1.0 if self.engine.starts else 0.5
        return ReturnSheet(
            injectors=self.labels, step=1.0, duration_s=120.0 if engine.starts else 20.0,
            state="idle" if engine.starts else "cranking",
            readings=tuple(
                Value(injector=x, number=1, value=float(round(b * share + self._noise(0.4))))
                for x, b in zip(self.labels, engine.back, strict=True)
            ),
        )  # fmt: skip

    def rail(self, _who: tuple[str, ...], _passes: int) -> Sheet:
        """The rail against what is wanted: a trace while it idles, figures while it is cranked."""
        engine = self.engine
        state = engine.rail
        leaky = sum(engine.leaks.values()) > 8_000.0
        cranking = 0.6 if state == "low_cranking" or (leaky and not engine.starts) else 1.0
        share = {"high": 1.25}.get(state, 1.0) * (0.8 if engine.supply < 0.7 else 1.0)
        read = ("cranking", 25_000.0, 25_000.0 * cranking * share * (1.0 + self._noise(0.01)))
        if not engine.starts:
            return RailSheet(read=(read,), engine="cranking")
        t = np.arange(0.0, 20.0, 0.05)
        swing = 6_000.0 * np.sin(2.0 * np.pi * 1.3 * t) if state == "surges" else 0.0
        actual = 30_000.0 * share + swing + self.rng.normal(0.0, 300.0, t.size)
        series = tuple((float(a), 30_000.0, float(b)) for a, b in zip(t, actual, strict=True))
        return RailSheet(series=series, read=(read,))

    def scan(self, _who: tuple[str, ...], _passes: int) -> Sheet:
        """What the controller knows: trims that follow the mixture, misfires of dead cylinders."""
        engine = self.engine
        works = [engine.works(k) for k in range(engine.count)]
        counts = tuple(
            (f"misfires {x}", (x,), float(self.rng.poisson(0.5 + 120.0 * max(0.0, 0.75 - w))))
            for x, w in zip(self.labels, works, strict=True)
        )
        if engine.system == "common_rail":
            return ScanSheet(counts=counts, over_s=120.0)
        lean = 100.0 * (1.0 - sum(engine.flow) / engine.count)
        dead = 10.0 * sum(w < 0.5 for w in works) * 4.0 / engine.count
        weak = 25.0 * max(0.0, 1.0 - engine.supply)
        rich = 15.0 * (engine.hose == "wet") + 12.0 * (sum(engine.leak) > 9.0)
        rich += 20.0 * max(0.0, engine.supply - 1.0)
        air = 18.0 if "air" in engine.outside else 0.0
        idle = lean + dead + 0.4 * weak + air - rich + self._noise(2.0)
        raised = lean + dead + 2.0 * weak + 0.2 * air - 0.3 * rich + self._noise(2.0)
        trims = tuple(
            Trim(state=s, long=round(float(np.clip(v, -25.0, 25.0)), 1))
            for s, v in (("idle", idle), ("raised", raised))
        )
        return ScanSheet(trims=trims if engine.starts else (), counts=counts, over_s=120.0,
                         rows=tuple((f"{s}, long", ("", s, "long")) for s in ("idle", "raised")))  # fmt: skip

    def opening(self, who: tuple[str, ...], passes: int) -> Sheet:
        """Slow strokes on the hand pump, seat, sound and spray looked at."""
        engine = self.engine
        old = self._last(OPENING.code)
        strokes = list(old.strokes) if isinstance(old, OpeningSheet) else []
        for label in who:
            k = int(label) - 1
            for _ in range(passes if strokes and old else 3):
                number = 1 + sum(s.injector == label for s in strokes)
                value = round((engine.opens[k] + self._noise(60.0)) / 100.0) * 100.0
                sound = "chatters" if engine.spray[k] == "even" else "weak"
                strokes.append(
                    Stroke(
                        injector=label, number=number, value=value, seat=engine.seat[k],
                        sound=sound, spray=engine.spray[k],
                    )
                )  # fmt: skip
        return OpeningSheet(
            injectors=self.labels, strokes=tuple(strokes), step=100.0, window=_WINDOW
        )


_GAUGES: Final[dict[str, Callable[[Bench, tuple[str, ...], int], Sheet]]] = {
    WALK.code: Bench.walk,
    SUPPLY.code: Bench.supply,
    HOLD.code: Bench.hold,
    COMMAND.code: Bench.command,
    TIPS.code: Bench.tips,
    COIL_RESISTANCE.code: lambda b, _w, _p: b.coils(COIL_RESISTANCE.code),
    COIL_VOLTAGE.code: lambda b, _w, _p: b.coils(COIL_VOLTAGE.code),
    DROP.code: Bench.drop,
    RUNNING.code: Bench.running,
    SCAN.code: Bench.scan,
    FLOW_BENCH.code: Bench.flow_bench,
    CORRECTION.code: Bench.correction,
    CRANKING.code: Bench.cranking,
    RETURNS.code: Bench.returns,
    RAIL.code: Bench.rail,
    OPENING.code: Bench.opening,
}
