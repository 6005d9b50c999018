"""What was found, in words for whoever owns the vehicle.

>>> sentence_for("leaks_at_tip", ["5"], None)
'Injector 5 dripped into its cylinder while the engine stood.'
"""

from collections.abc import Sequence
from typing import Final

from plumb.core.causes.sighting import OWN_WORDS
from plumb.core.causes.table import FAULTS
from plumb.core.measure.text import listed, percent
from plumb.core.mend.repairs import Repair

_ONE: Final = {
    "gives_less": "was clogged or sticking and gave{share} less fuel than the others",
    "gives_more": "gave{share} more fuel than the others",
    "leaks_at_tip": "dripped into its cylinder while the engine stood",
    "stuck_open": "did not close any more",
    "no_response": "did not open any more",
    "opens_weakly": "opened too weakly",
    "intermittent": "worked only now and then",
    "coil_open": "had a broken winding and could not open any more",
    "coil_shorted": "had a short in its winding",
    "coil_out_of_window": "had a winding outside of what its maker allows",
    "no_command": "was not switched by the engine’s wiring",
    "bad_spray": "sprayed badly",
    "returns_too_much": "let too much fuel run back",
    "opens_early": "opened at too low a pressure",
    "opens_late": "opened at too high a pressure",
    "seat_leaks": "did not close tightly",
    "not_the_injector": "was not at fault itself: what it shares with others was",
    "off_alike": "worked alike, and none of them gave what it should",
    "not_settled": "could not be told for certain",
    "not_measured": "was not measured",
}
_STANDS: Final = {
    "sound": "as it should be",
    "gives_less": "gives less",
    "gives_more": "gives more",
    "leaks_at_tip": "drips while it is shut",
    "stuck_open": "does not close",
    "no_response": "does not open",
    "opens_weakly": "opens too weakly",
    "intermittent": "works only now and then",
    "coil_open": "winding broken",
    "coil_shorted": "winding shorted",
    "coil_out_of_window": "winding outside its limits",
    "no_command": "not switched on",
    "bad_spray": "sprays badly",
    "returns_too_much": "lets too much run back",
    "opens_early": "opens at too low a pressure",
    "opens_late": "opens at too high a pressure",
    "seat_leaks": "does not close tightly",
    "not_the_injector": "not at fault itself",
    "off_alike": "as the others",
    "not_settled": "not certain",
    "not_measured": "not measured",
}


def stands(condition: str) -> str:
    """How an injector stands, beside its mark: ``as it should be``."""
    return _STANDS[condition]


_SEVERAL: Final = (
    ("was ", "were "), ("its ", "their "), ("itself", "themselves"),
    ("what it shares", "what they share"),
)  # fmt: skip


def sentence_for(condition: str, labels: Sequence[str], share: float | None) -> str:
    """One sentence on the injectors that were found so; ``share`` is how much off, as a fraction."""
    about = f" about {percent(share)} %" if share is not None else ""
    words = _ONE[condition].format(share=about)
    if len(labels) == 1:
        return f"Injector {labels[0]} {words}."
    for one, many in _SEVERAL:
        words = words.replace(one, many)
    return f"Injectors {listed(labels)} {words}."


def not_judged(labels: Sequence[str]) -> str:
    """One sentence on the injectors that nothing could be told of without pressure."""
    return f"Without fuel pressure {listed(labels)} could not be judged."


def not_at_fault(labels: Sequence[str]) -> str:
    """One sentence on the injectors whose cylinder is at fault.

    >>> not_at_fault(("3",)), not_at_fault(("3", "4"))
    ('Injector 3 was not at fault itself.', 'Injectors 3 and 4 were not at fault themselves.')
    """
    told = sentence_for("not_the_injector", labels, None)
    return f"{told.partition(':')[0]}."


_WAS: Final = {
    "cleaned": "was cleaned",
    "replaced": "was replaced",
    "reshimmed": "was set anew",
    "rebuilt": "was rebuilt",
    "wired": "had its wiring put right",
    "nothing": "was left as it is",
}


def done_to(repairs: Sequence[Repair]) -> str:
    """What was done, in a sentence; empty where nothing was.

    >>> done_to((Repair(injector="5", done="replaced"), Repair(injector="4", done="cleaned")))
    'Injector 5 was replaced, injector 4 was cleaned.'
    >>> done_to((Repair(injector="1", done="rebuilt"), Repair(injector="3", done="rebuilt")))
    'Injectors 1 and 3 were rebuilt.'
    """
    alike: dict[tuple[str, str], list[Repair]] = {}
    for n, r in enumerate(repairs):
        alone = not r.injector or r.done == "swapped"
        alike.setdefault((str(n) if alone else r.done, r.note), []).append(r)
    told = ", ".join(_done_alike(mine) for mine in alike.values())
    return f"{told[0].upper()}{told[1:]}." if told else ""


def _done_alike(repairs: Sequence[Repair]) -> str:
    """The same done to one or to several, each with its own part."""
    if len(repairs) == 1:
        return _one_done(repairs[0])
    # Noted in the same breath: told in the order of the engine, not of the keeping.
    in_order = sorted(repairs, key=lambda r: (len(r.injector), r.injector))
    whom = listed([f"{r.injector}{_part_of(r)}" for r in in_order])
    note = f" ({repairs[0].note})" if repairs[0].note else ""
    did = _WAS[repairs[0].done].replace("was ", "were ", 1).replace("its ", "their ", 1)
    return f"injectors {whom} {did}{note}"


def _part_of(repair: Repair) -> str:
    return f" ({repair.part.words})" if repair.part and repair.part.words else ""


def _one_done(repair: Repair) -> str:
    if repair.done == "swapped":
        return f"injectors {repair.injector} and {repair.swapped_with} changed places"
    note = f" ({repair.note})" if repair.note else ""
    if not repair.injector:
        if repair.cause == OWN_WORDS and repair.note:
            return f"put right on the engine: {repair.note}"
        return f"on the engine {FAULTS[repair.cause].words} was put right{note}"
    return f"injector {repair.injector} {_WAS[repair.done]}{_part_of(repair)}{note}"
