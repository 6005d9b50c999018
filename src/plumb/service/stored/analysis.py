"""From a stored sheet to what the core makes of it; kept in memory while its version holds."""

from collections import OrderedDict
from collections.abc import Mapping
from dataclasses import replace
from threading import Lock
from typing import Any, Final

from plumb.core.causes.common import Learnt
from plumb.core.measure.codes import written
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.spoken import words_in
from plumb.core.mend.finish import Finished, finish
from plumb.core.procedures import Result
from plumb.core.weigh.job import Job, analyse_sheet
from plumb.jobfile.to_core import core_of
from plumb.service.stored.finishing import repaired, sightings_of
from plumb.service.stored.parts import engine_of, head_of, noted_on
from plumb.store.finishing import Kept
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet

_MOST_KEPT: Final = 512
_kept: "OrderedDict[tuple[Any, ...], Result]" = OrderedDict()
_lock = Lock()


def analysed(whole: WholeSheet, thresholds: Thresholds) -> Result:
    """The core's result of a stored sheet; the same version gives the same result."""
    sheet = whole.sheet
    labels = tuple(i.label for i in whole.injectors)
    key = (
        sheet.id, sheet.version, sheet.taken_at, labels, len(whole.readings), whole.learnt,
        whole.starts, whole.carried, thresholds,
    )  # fmt: skip
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    core: Any = core_of(head_of(whole), noted_on(whole), engine_of(whole), whole.carried)
    if whole.learnt:
        core = replace(core, learnt=(*core.learnt, *whole.learnt))
    result = analyse_sheet(core, thresholds)
    with _lock:
        _kept[key] = result
        while len(_kept) > _MOST_KEPT:
            _kept.popitem(last=False)
    return result


def weighed(
    job: JobRecord,
    vehicle: VehicleRecord,
    injectors: tuple[InjectorRecord, ...],
    sheets: list[WholeSheet],
    thresholds: Thresholds,
    common: Mapping[str, Learnt],
    kept: Kept,
) -> Finished:
    """Every sheet of a stored job weighed, with what was done about it.

    ``common`` is how common faults are here, ``kept`` what was noted from the verdict on.
    """
    labels = {i.id: i.label for i in injectors}
    return finish(
        Job(
            injectors=tuple(i.label for i in injectors),
            sheets=(),
            fuel_system=vehicle.fuel_system,
            boosted=vehicle.boosted,
            accepted={a["injector"]: str(a["reason"]) for a in job.accepted or ()},
            feeds={i.label: i.feed for i in injectors if i.feed},
            banks={i.label: i.bank for i in injectors if i.bank},
            said=words_in(job.complaint),
            codes=tuple(code for typed in job.codes if (code := written(typed))),
            cylinders={i.label: i.cylinder for i in injectors if i.cylinder},
            common={code: one.chance for code, one in common.items()},
            set_aside=frozenset(s["kind"] for s in job.set_aside or ()),
            sightings=sightings_of(kept, labels),
        ),
        tuple((whole.sheet.key, analysed(whole, thresholds)) for whole in sheets),
        repaired(kept, labels, sheets),
    )
