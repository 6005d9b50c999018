"""From the results of all sheets to facts: short codes that the verdict's table is written in.

A fact belongs to one injector, or to the whole engine (injector empty).  Each carries the sentence
that a person reads, and the sheet it comes from.  Of several sheets of one kind the newest with
readings speaks; a flow bench after cleaning speaks beside the one before.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Final

from plumb.core import (
    coil,
    correction,
    cranking,
    drop,
    hold,
    opening,
    rail,
    returns,
    running,
    seen,
    supply,
    walk,
)  # fmt: skip
from plumb.core.decision import State
from plumb.core.evidence_diesel import STATES, of_compared, of_opening, of_rail
from plumb.core.fact import Fact, Shares
from plumb.core.finding import Finding
from plumb.core.quantities import rounded

Result = (
    drop.DropResult
    | coil.CoilResult
    | supply.SupplyResult
    | hold.HoldResult
    | seen.SeenResult
    | walk.WalkResult
    | correction.CorrectionResult
    | returns.ReturnResult
    | cranking.CrankingResult
    | rail.RailResult
    | opening.OpeningResult
)
"""What any sheet's analysis gives."""


def has_readings(result: Result) -> bool:
    """Whether anything was noted on the sheet."""
    if isinstance(result, walk.WalkResult):
        return result.begun
    if isinstance(result, hold.HoldResult):
        return bool(result.sheet.series or result.sheet.isolation)
    if isinstance(result, supply.SupplyResult):
        return bool(result.sheet.readings or result.sheet.pump)
    if isinstance(result, cranking.CrankingResult):
        return bool(result.humps) or any(v is not None for _, v in result.sheet.cylinders)
    if isinstance(result, rail.RailResult):
        return bool(result.sheet.series)
    if isinstance(result, opening.OpeningResult):
        return bool(result.sheet.strokes)
    return bool(result.sheet.readings)


def newest(sheets: Sequence[tuple[str, Result]]) -> dict[str, tuple[str, Result]]:
    """The newest sheet with readings of each kind; flow benches by when they were done."""
    made: dict[str, tuple[str, Result]] = {}
    for key, result in sheets:
        if has_readings(result):
            after = isinstance(result, drop.DropResult) and result.sheet.when == "after_cleaning"
            late = after and result.kind == running.FLOW_BENCH
            made[f"{result.kind} after" if late else result.kind] = (key, result)
    return made


def facts_of(sheets: Sequence[tuple[str, Result]], shares: Shares) -> tuple[Fact, ...]:
    """Every fact of a job, sheet by sheet, then those that follow from who shares what."""
    speaking = newest(sheets)
    made: list[Fact] = []
    for key, result in sheets:
        if any(k == key for k, _ in speaking.values()):
            made += _READERS[type(result)](key, result)
    made += _halves(speaking, made)
    return (*made, *_shared(made, shares))


def _halves(speaking: Mapping[str, tuple[str, Result]], facts: Sequence[Fact]) -> Iterator[Fact]:
    """A split set whose one half is wet at its tips while the other stays dry: the dry one holds."""
    key, result = speaking.get(drop.KIND, ("", None))
    if not isinstance(result, drop.DropResult) or not result.split:
        return
    wet = {f.injector for f in facts if f.code in {"tip_weeps", "tip_drips", "tip_pours"}}
    dry = {f.injector for f in facts if f.code == "tip_dry"}
    camps = [result.flow.agreeing, *result.flow.against]
    for camp in camps:
        others = [label for other in camps if other is not camp for label in other]
        if set(camp) <= dry and set(others) <= wet:
            for label in camp:
                yield Fact(
                    code="other_half_leaks", injector=label, sheet=key,
                    text="the other half of the set leaks at its tips",
                )  # fmt: skip


_PREFIX: Final = {
    drop.KIND: "drop",
    running.RUNNING: "running",
    running.FLOW_BENCH: "bench",
}
_WHERE: Final = {
    "drop": "on the drop sheet",
    "running": "on the running balance",
    "bench": "on the flow bench",
}


def _of_drop(key: str, result: drop.DropResult) -> Iterator[Fact]:
    prefix = _PREFIX[result.kind]
    after = result.sheet.when == "after_cleaning"
    for f in result.findings:
        word = STATES.get(f.state)
        if word is None:
            continue
        yield Fact(
            code=f"{prefix}_{word}", injector=f.injector, sheet=key, text=_flow_text(f, prefix)
        )
        if after:
            yield Fact(code="after_cleaning", injector=f.injector, sheet=key)
        if f.passes > 1:
            yield Fact(code="two_passes", injector=f.injector, sheet=key)
        if f.state is State.UNSETTLED and f.passes_to_settle is None:
            yield Fact(code="too_coarse", injector=f.injector, sheet=key)
        if f.answered_late:
            yield Fact(
                code="answered_late", injector=f.injector, sheet=key,
                text="answered only after a silent burst",
            )  # fmt: skip
    yield from _of_bursts(key, result)
    yield from _of_drop_set(key, result, prefix)


def _flow_text(finding: Finding, prefix: str) -> str:
    where = _WHERE[prefix]
    if finding.state is State.NO_RESPONSE:
        return f"no drop at all {where}"
    if finding.deviation is None:
        return ""
    size = rounded(abs(finding.deviation) * 100.0, 0)
    if finding.state is State.IN_PLUMB:
        return f"in plumb {where}"
    if finding.state is State.UNSETTLED:
        return f"not settled {where}"
    return f"{size} % {'less' if finding.deviation < 0 else 'more'} {where}"


_SOUNDS: Final = {"clicks": "clicks", "buzzes": "buzzes", "none": "no_click"}


def _of_bursts(key: str, result: drop.DropResult) -> Iterator[Fact]:
    """What was noted beside the figures: sound, the pressure at which it fires, the spray."""
    for r in result.sheet.readings:
        if r.sound:
            yield Fact(code=_SOUNDS[r.sound], injector=r.injector, sheet=key)
        if r.fires_at is not None:
            yield Fact(
                code="fires_late", injector=r.injector, sheet=key,
                text=f"opens only once the rail has bled to {rounded(r.fires_at, 0)} kPa",
            )  # fmt: skip
        if r.spray:
            bad = r.spray != "even"
            yield Fact(
                code="spray_bad" if bad else "spray_even", injector=r.injector, sheet=key,
                text=f"spray {r.spray}" if bad else "",
            )  # fmt: skip


def _of_drop_set(key: str, result: drop.DropResult, prefix: str) -> Iterator[Fact]:
    answered = any(f.passes and f.state is not State.NO_RESPONSE for f in result.findings)
    if answered or result.sheet.neighbour_proven:
        yield Fact(code="neighbour_answered", injector="", sheet=key)
    volts = result.sheet.supply_v
    if volts is not None:
        weak = volts < drop.WEAK_SUPPLY_V
        yield Fact(
            code="tester_weak" if weak else "tester_good", injector="", sheet=key,
            text=f"the tester's supply was {rounded(volts, 1)} V",
        )  # fmt: skip
    for reason in result.sheet.outside:
        yield Fact(code=f"{prefix}_outside", injector="", sheet=key, text=reason)
    if result.against_expected is not None and not result.split:
        deviation, u = result.against_expected
        size = rounded(abs(deviation) * 100.0, 0)
        if abs(deviation) - 1.645 * u > result.tolerance:
            side = "low" if deviation < 0 else "high"
            yield Fact(
                code=f"set_{side}", injector="", sheet=key,
                text=f"the set as a whole gives {size} % "
                f"{'less' if deviation < 0 else 'more'} than expected",
            )  # fmt: skip
        else:
            yield Fact(code="set_as_expected", injector="", sheet=key)


def _of_coil(key: str, result: coil.CoilResult) -> Iterator[Fact]:
    ohm = result.kind == coil.RESISTANCE
    read = [f for f in result.findings if f.state not in {State.OPEN, State.NOT_JUDGED}]
    if ohm and read:
        yield Fact(code="a_coil_reads", injector="", sheet=key)
    for f in result.findings:
        code = _coil_code(f, result, ohm=ohm)
        if code:
            unit = "Ω at 20 °C" if ohm else "V"
            figure = "open" if f.value is None else f"{rounded(f.value, 2)} {unit}"
            name = "coil" if ohm else "voltage drop"
            yield Fact(code=code, injector=f.injector, sheet=key, text=f"{name} {figure}")


def _coil_code(finding: Finding, result: coil.CoilResult, *, ohm: bool) -> str:
    if finding.state is State.OPEN:
        return "coil_open"
    if finding.injector in result.shorted:
        return "coil_short"
    good, out = ("coil_good", "coil_out") if ohm else ("volts_good", "volts_out")
    return {
        State.IN_PLUMB: good,
        State.LOW: out,
        State.HIGH: out,
        State.UNSETTLED: "coil_unsettled",
        State.SPLIT: "coil_unsettled",
    }.get(finding.state, "")


def _of_supply(key: str, result: supply.SupplyResult) -> Iterator[Fact]:
    pump = result.sheet.pump
    if result.ends_here:
        text = {
            "clicks_only": "the relay clicks but the pump's motor is not heard",
            "silent": "neither relay nor pump is heard",
        }.get(pump, "no pressure with the key on")
        yield Fact(code="no_supply", injector="", sheet=key, text=text)
        return
    states = {f.injector: f.state for f in result.findings if f.value is not None}
    for name, state in states.items():
        spoken = {"key_on": "key on", "running": "running", "hose_off": "hose off"}[name]
        if state in {State.LOW, State.HIGH}:
            side = "below" if state is State.LOW else "above"
            yield Fact(
                code="supply_low" if state is State.LOW else "supply_high", injector="",
                sheet=key, text=f"supply pressure {side} its window, {spoken}",
            )  # fmt: skip
    if result.passed and any(s is State.IN_PLUMB for s in states.values()):
        yield Fact(code="supply_good", injector="", sheet=key, text="supply inside its window")
    if result.regulator_answers is False:
        yield Fact(
            code="regulator_dead", injector="", sheet=key,
            text="the pressure does not rise when the vacuum hose comes off",
        )  # fmt: skip


def _of_hold(key: str, result: hold.HoldResult) -> Iterator[Fact]:
    board = result.board
    if result.collapsed:
        yield Fact(
            code="hold_collapsed", injector="", sheet=key,
            text="the rail's pressure is gone within seconds",
        )  # fmt: skip
    elif result.state is State.LOW:
        yield Fact(code="hold_lost", injector="", sheet=key, text="the rail does not hold")
    elif result.state is State.IN_PLUMB:
        yield Fact(code="hold_good", injector="", sheet=key, text="the rail holds")
    if result.soaked and result.state is not State.LOW:
        yield Fact(
            code="hold_soaks", injector="", sheet=key,
            text="the pressure rose in the hot rail: heat soak, no leak",
        )  # fmt: skip
    if board.contradiction:
        yield Fact(
            code="board_contradicts", injector="", sheet=key,
            text="the isolation steps contradict each other",
        )  # fmt: skip
    elif board.found:
        yield Fact(code=f"source_{board.found}", injector="", sheet=key)
    seats = {"low": "injectors", "high": "injector_seats"}[result.sheet.rail]
    if board.tried and not board.contradiction and seats not in board.left:
        yield Fact(code="injectors_tight", injector="", sheet=key)


def _of_seen(key: str, result: seen.SeenResult) -> Iterator[Fact]:
    prefix = "command" if result.kind == seen.COMMAND else "tip"
    for label, word in result.words:
        if word:
            code = "good" if word == "blinks" else word
            said = {"command": f"command {word}", "tip": f"tip {word}"}[prefix]
            yield Fact(code=f"{prefix}_{code}", injector=label, sheet=key, text=said)
    wet = [w for _, w in result.words if w not in {"", "dry"}]
    if prefix == "tip" and not wet and all(w for _, w in result.words):
        yield Fact(code="all_tips_dry", injector="", sheet=key)


def _of_walk(key: str, result: walk.WalkResult) -> Iterator[Fact]:
    sheet = result.sheet
    if sheet.hose == "wet":
        yield Fact(
            code="hose_wet", injector="", sheet=key, text="fuel stands in the regulator's hose"
        )
    if sheet.connectors in {"loose", "broken"}:
        yield Fact(
            code="connectors_bad", injector="", sheet=key, text=f"connectors {sheet.connectors}"
        )
    if set(sheet.complaint) & walk.LEAKY:
        yield Fact(code="complains_of_leak", injector="", sheet=key)


_READERS: Final[dict[type, Callable[..., Iterator[Fact]]]] = {
    drop.DropResult: _of_drop,
    coil.CoilResult: _of_coil,
    supply.SupplyResult: _of_supply,
    hold.HoldResult: _of_hold,
    seen.SeenResult: _of_seen,
    walk.WalkResult: _of_walk,
    correction.CorrectionResult: of_compared,
    returns.ReturnResult: of_compared,
    cranking.CrankingResult: of_compared,
    rail.RailResult: of_rail,
    opening.OpeningResult: of_opening,
}

_DEAD: Final = frozenset({"drop_none", "command_dark"})
_WEAK: Final = frozenset({"drop_low", "running_low", "command_weak"})
_SOUND: Final = frozenset({"drop_in_plumb", "running_in_plumb"})


def _shared(facts: Sequence[Fact], shares: Shares) -> Iterator[Fact]:
    """Partners that are bad together, partners that are sound, and a coil that drags others."""
    codes: dict[str, set[str]] = {}
    for fact in facts:
        if fact.injector:
            codes.setdefault(fact.injector, set()).add(fact.code)
    for name, groups in (("feed", shares.feeds), ("bank", shares.banks)):
        for label in codes:
            group = groups.get(label, "")
            partners = [p for p in codes if p != label and group and groups.get(p) == group]
            if partners:
                yield from _alike(label, partners, codes, (name, group))


def _alike(
    label: str, partners: list[str], codes: dict[str, set[str]], shared: tuple[str, str]
) -> Iterator[Fact]:
    name, group = shared
    others = [c for c in codes if c != label and c not in partners]
    mine = codes[label]
    for word, bad in (("dead", _DEAD), ("weak", _WEAK)):
        together = mine & bad and all(codes[p] & bad for p in partners)
        apart = others and not any(codes[o] & bad for o in others)
        # A bank is half an engine: it shares a driver only where the feed says nothing else.
        if together and apart:
            yield Fact(
                code=f"feed_{word}", injector=label, sheet="",
                text=f"all on {name} {group} read alike: what they share comes first",
            )  # fmt: skip
    if name == "feed" and any(codes[p] & _SOUND for p in partners):
        yield Fact(code="partner_sound", injector=label, sheet="", text="its partner is sound")
    low = [p for p in partners if "coil_short" in codes[p]]
    if low and "coil_short" not in mine and mine & (_DEAD | _WEAK | {"drop_split"}):
        yield Fact(
            code="dragged", injector=label, sheet="",
            text=f"the coil of {', '.join(low)} is far too low and can pull {name} {group} down",
        )  # fmt: skip
