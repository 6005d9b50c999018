"""Whole petrol jobs for tests of the verdict and of the next step, in psi and ohm."""

from collections.abc import Mapping, Sequence
from typing import Any

from plumb.core.compare.drops.expected import Expected
from plumb.core.compare.drops.sheet import DropSheet
from plumb.core.compare.seen import SeenSheet
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.readings import Mark, Noted, Seen, Value, Window
from plumb.core.procedures import COMMAND, DROP, TIPS, Sheet
from plumb.core.procedures.coils.analysis import CoilSheet, Meter
from plumb.core.procedures.hold.analysis import HoldSheet, Limits
from plumb.core.procedures.scan.analysis import ScanSheet, Trim
from plumb.core.procedures.supply.analysis import SupplySheet
from plumb.core.procedures.walk.analysis import WalkSheet
from plumb.core.weigh.job import Job, JobResult, analyse_job
from plumb.core.weigh.verdict import Verdict

PSI = KPA_PER["psi"]
Ends = Sequence[float | None]


def labels(count: int) -> tuple[str, ...]:
    """1 to n."""
    return tuple(str(n) for n in range(1, count + 1))


def drop(ends: Ends, passes: int = 1, **more: Any) -> DropSheet:
    """Bursts from 50 psi to these ends; None is a silent one."""
    expected = more.pop("expected", None)
    return DropSheet(
        kind=more.pop("kind", DROP.code),
        injectors=labels(len(ends)),
        step=0.5 * PSI,
        expected=Expected(drop=expected * PSI, source="card") if expected else None,
        readings=tuple(
            Noted(
                injector=str(n), number=p, first=50 * PSI, second=None if e is None else e * PSI,
                mark=Mark.NONE if e is None else None,
            )
            for n, e in enumerate(ends, 1)
            for p in range(1, passes + 1)
        ),
        **more,
    )  # fmt: skip


def command(words: str) -> SeenSheet:
    """``blinks dark``: one word an injector."""
    seen = tuple(Seen(injector=str(n), word=w) for n, w in enumerate(words.split(), 1))
    return SeenSheet(kind=COMMAND.code, injectors=labels(len(seen)), readings=seen)


def tips(words: str) -> SeenSheet:
    """``dry weeps``: one word an injector."""
    seen = tuple(Seen(injector=str(n), word=w) for n, w in enumerate(words.split(), 1))
    return SeenSheet(kind=TIPS.code, injectors=labels(len(seen)), readings=seen)


def scan(counts: str = "", idle: float | None = 1.0, raised: float | None = 2.0) -> ScanSheet:
    """Misfires of each cylinder as ``0 41 0 0``, and the long trims of an engine of one bank."""
    rows = tuple((f"{s}, long", ("", s, "long")) for s in ("idle", "raised"))
    return ScanSheet(
        trims=tuple(
            Trim(state=s, long=v) for s, v in (("idle", idle), ("raised", raised)) if v is not None
        ),
        counts=tuple(
            (f"misfires {n}", (str(n),), float(c)) for n, c in enumerate(counts.split(), 1)
        ),
        rows=rows,
        over_s=120.0,
    )


def coils(ohms: Ends, **more: Any) -> CoilSheet:
    """Coils against 11 to 14 ohm; None is an overload."""
    return CoilSheet(
        injectors=labels(len(ohms)),
        meter=Meter(step=0.1),
        window=Window(low=11.0, high=14.0, spread=3.0),
        readings=tuple(
            Value(injector=str(n), number=1, value=v, mark=None if v is not None else Mark.OVER)
            for n, v in enumerate(ohms, 1)
        ),
        **more,
    )


def supply(key_on: float = 50.0, pump: str = "runs") -> SupplySheet:
    """Static pressure against 48 to 55 psi."""
    return SupplySheet(
        readings=(("key_on", key_on * PSI),), step=0.5 * PSI, pump=pump,
        windows=(("key_on", Window(low=48 * PSI, high=55 * PSI)),),
    )  # fmt: skip


WITHIN_A_MINUTE = Limits(lost_at_most=5 * PSI, within_s=60)


def hold(
    series: Sequence[tuple[float, float]],
    *tried: tuple[str, str],
    limits: Limits = WITHIN_A_MINUTE,
) -> HoldSheet:
    """At most 5 psi lost in 60 s, where no other limit is given."""
    return HoldSheet(
        series=tuple((t, p * PSI) for t, p in series),
        step=0.5 * PSI,
        isolation=tried,
        limits=limits,
    )


def walk(*complaint: str, hose: str = "dry") -> WalkSheet:
    """A walk-round with good connectors."""
    return WalkSheet(complaint=complaint, hose=hose, connectors="good")


def weigh(
    count: int, *sheets: Sheet, feeds: Mapping[str, str] | None = None, **more: Any
) -> JobResult:
    """A job of these sheets, oldest first."""
    keyed = tuple((f"s{n}", s) for n, s in enumerate(sheets, 1))
    return analyse_job(Job(injectors=labels(count), sheets=keyed, feeds=feeds or {}, **more))


def verdicts(count: int, *sheets: Sheet, **more: Any) -> dict[str, Verdict]:
    """The verdict of each injector."""
    return dict(weigh(count, *sheets, **more).verdicts)
