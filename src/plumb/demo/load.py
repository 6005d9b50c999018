"""Load the demo once: gauges on the shelf, and the jobs into an empty shop."""

from pathlib import Path

from sqlalchemy import Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import Conflict
from plumb.demo.bench import Bench
from plumb.demo.traces import bring_in
from plumb.service.stored.finishing import EVERY_VEHICLE
from plumb.service.stored.gauges import Gauge
from plumb.service.uses.finishing import Signature, close
from plumb.service.uses.shelf import add_gauge, keep, list_gauges
from plumb.service.uses.shop import change_shop
from plumb.service.uses.transfer import import_job
from plumb.service.views.job import ShelfView
from plumb.store.jobs import count_from, count_jobs
from plumb.store.session import transaction

JOBS = Path(__file__).parent
GAUGES = (
    Gauge(name="dial A", unit="psi", step="0.5", span="100", reads="dial"),
    Gauge(name="dial B, coarse", unit="psi", step="2"),
    Gauge(name="digital C", unit="kPa", step="1"),
    Gauge(
        name="digital D", unit="bar", step="0.02", span="10", reads="digital", class_percent="0.25"
    ),
    Gauge(name="digital E", unit="psi", step="0.1"),
    Gauge(name="meter M", unit="ohm", step="0.1", lead="0.2", percent="0.8", counts="2"),
    Gauge(name="meter M, volts", unit="V", step="0.01", percent="0.5", counts="2"),
    Gauge(name="tubes", unit="ml", step="0.5"),
    Gauge(name="bench pump", unit="bar", step="0.5", span="400", class_percent="0.6"),
)
CARD = "workshop card 3"
SHOP_NAME = "Municipal harbour workshop, Saltmere"
SIGNED = "341"
"""The job that is told to its end: repaired, measured again, signed."""


def _entry(what: str, title: str, kind: str, unit: str, /, **values: str) -> ShelfView:
    return ShelfView(
        id=0,
        what=what,
        name=title,
        kind=kind,
        unit=unit,
        values={k.replace("__", "."): v for k, v in values.items()},
    )


SHELF = (
    _entry("window", "Torvik port coils", "coil_resistance", "ohm", window__low="12",
           window__high="15", window__from_c="15", window__to_c="30", window__spread="2",
           window__source=CARD),
    _entry("window", "Torvik port rail", "supply_pressure", "psi", windows__key_on__low="48",
           windows__key_on__high="54", windows__running__low="39", windows__running__high="45",
           windows__key_on__source=CARD),
    _entry("window", "Torvik hold, 5 min", "hold", "psi", window__lost_at_most="5",
           window__within_s="300", window__source=CARD),
    _entry("window", "Torvik hold, 20 min", "hold", "psi", window__left_at_least="24",
           window__after_s="1200", window__source=CARD),
    _entry("window", "60 pulses of 9 ms", "pressure_drop", "psi", expected__drop="23.5",
           expected__source=CARD),
    _entry("window", "Brannock pintle P3", "opening_pressure", "bar", window__low="122",
           window__high="132", window__spread="5", window__source="Brannock workshop sheet 12"),
    _entry("price", EVERY_VEHICLE, "", "", labour_per_hour="90", reach_minutes="60",
           each_minutes="12", part="120", cleaning="25", rebuild="80"),
    _entry("price", "Torvik Dogger 2.2 diesel", "", "", reach_minutes="80", each_minutes="20",
           part="310"),
    _entry("rule", "Saltmere, 8 %", "", "", name="flow_index", tolerance_percent="8",
           source="workshop meeting"),
    _entry("rule", "Saltmere, mean 2 psi", "", "psi", name="plain_mean", limit="2",
           source="workshop meeting"),
)  # fmt: skip


def gauges_once(engine: Engine) -> None:
    """A shelf of gauges to begin with, where there is none yet."""
    if list_gauges(engine):
        return
    for gauge in GAUGES:
        try:
            add_gauge(engine, gauge)
        except Conflict:
            continue


def once(engine: Engine, stand_ins: Bench | None = None) -> None:
    """Bring the demo jobs in, unless the shop has jobs already; its bench is where it is this time."""
    gauges_once(engine)
    if stand_ins is not None:
        stand_ins.put_on_the_shelf(engine)
    with transaction(engine) as connection:
        if count_jobs(connection):
            return
    for entry in SHELF:
        try:
            keep(engine, entry)
        except Conflict:
            continue
    change_shop(engine, SHOP_NAME, "Quay 3, bay 2, Saltmere", "EUR")
    for path in sorted(JOBS.glob("*.json")):
        import_job(engine, path.read_bytes())
    bring_in(engine)
    close(engine, SIGNED, Signature(by="Ines K."), Thresholds())
    with transaction(engine) as connection:
        # The demo's numbers are this shop's own: the next job goes on after them.
        count_from(connection, max(int(path.stem.split("-")[0]) for path in JOBS.glob("*.json")))
