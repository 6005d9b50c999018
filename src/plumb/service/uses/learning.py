"""Learning from closed jobs: what was confirmed so far, and whether it counts."""

from sqlalchemy import Engine

from plumb.core.causes.common import learnt_on
from plumb.core.causes.table import FAULTS
from plumb.core.procedures import FUEL_SYSTEMS
from plumb.service.stored.commonness import counts_here, learns, switch
from plumb.service.views.learning import CommonView, LearningView
from plumb.store.session import retried, transaction


@retried
def show_learning(engine: Engine) -> LearningView:
    """Whether the shop learns, from how many jobs, and how common that makes what it has met."""
    with transaction(engine) as connection:
        on = learns(connection)
        counts = {system: counts_here(connection, system) for system in FUEL_SYSTEMS}
    return LearningView(
        on=on,
        jobs=sum(c.jobs for c in counts.values()),
        faults=[
            CommonView(
                fuel_system=system, fault=code, words=FAULTS[code].words, cases=one.own_cases,
                per_hundred=round(100.0 * one.chance, 1),
                own_percent=round(100.0 * one.own_share, 1),
            )
            for system, own in counts.items()
            for code, one in learnt_on(system, own).items()
            if one.own_cases
        ],
    )  # fmt: skip


@retried
def set_learning(engine: Engine, *, on: bool) -> LearningView:
    """Let closed jobs count, or not."""
    with transaction(engine) as connection:
        switch(connection, on=on)
    return show_learning(engine)
