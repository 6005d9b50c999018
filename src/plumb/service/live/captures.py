"""Every capture that goes on: at most one a sheet, and one an instrument."""

import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from sqlalchemy import Connection, Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import Conflict, NotThere, Problem
from plumb.core.measure.quantities import parse_number
from plumb.core.measure.text import listed
from plumb.devices.address import Address, address_of, command_of
from plumb.devices.instrument import Source
from plumb.devices.scheduler import REAL_TIME, Scheduler
from plumb.devices.scpi import ScpiBox, ScpiGauge
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.capturing import Capturing
from plumb.service.live.conductor import Conductor
from plumb.service.live.folder import FolderSession
from plumb.service.live.hub import Hub
from plumb.service.live.session import Session
from plumb.service.live.source import Pushed
from plumb.service.live.state import Wanted
from plumb.service.screens.sheet import sheet_view
from plumb.service.stored.known import known_sheet, still_open
from plumb.service.views.live import CaptureOffer, CaptureView
from plumb.store import jobs as job_store
from plumb.store.records import GaugeRecord, ShelfRecord, WholeSheet
from plumb.store.session import transaction

AtHand = Callable[[Connection, WholeSheet], tuple[list[GaugeRecord], list[ShelfRecord]]]
"""The gauges and burst boxes that can serve a sheet."""


def on_the_shelf(
    connection: Connection, _whole: WholeSheet
) -> tuple[list[GaugeRecord], list[ShelfRecord]]:
    """What the shop's shelf has."""
    return job_store.gauges(connection), job_store.shelf(connection, "box")


PULSES: Final = 50
ON_MS: Final = 10.0
"""The burst of a box where neither sheet nor shelf says another; common practice, no source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Served:
    """A sheet, how it captures, and what of the shelf serves it."""

    whole: WholeSheet
    capturing: Capturing | None
    gauge: GaugeRecord | None
    box: ShelfRecord | None
    others: tuple[str, ...]


class Captures:
    """Begins, finds and ends captures."""

    def __init__(
        self, engine: Engine, thresholds: Thresholds, hub: Hub, *, most_bytes: int,
        at_hand: AtHand = on_the_shelf, scheduler: Scheduler = REAL_TIME,
    ) -> None:  # fmt: skip
        self._engine, self._thresholds, self._hub = engine, thresholds, hub
        self._at_hand, self._scheduler = at_hand, scheduler
        self._going: dict[int, Session | FolderSession] = {}
        self._most_bytes = most_bytes
        self._conductors: dict[int, Conductor] = {}
        self._lock = threading.Lock()

    def offer(self, sheet_id: int) -> CaptureOffer | None:
        """How a sheet can be filled in by an instrument; None where its kind cannot."""
        served = self._served(sheet_id)
        if served.capturing is None:
            return None
        gauge, capturing = served.gauge, served.capturing
        return CaptureOffer(
            words=capturing.words,
            gauge=gauge.name if gauge else "",
            address=gauge.address if gauge else "",
            unit=gauge.unit if gauge else capturing.unit or served.whole.sheet.unit,
            box=served.box.name if served.box is not None and capturing.fires else "",
            kick=capturing.kick,
            why_not=_why_not(served),
            others=list(served.others),
            pushed=gauge is not None and address_of(gauge.address).way == "browser",
        )

    def view(self, sheet_id: int) -> CaptureView | None:
        """How the capture of a sheet stands, or how its last one ended; None where there was none."""
        with self._lock:
            session = self._going.get(sheet_id)
        return session.view() if session else None

    def recent(self, sheet_id: int) -> dict[str, Any] | None:
        """The newest figures of a capture that goes on; None where there are none."""
        with self._lock:
            session = self._going.get(sheet_id)
        if not isinstance(session, Session) or not session.running:
            return None
        return session.recent()

    def start(self, sheet_id: int, *, by: str, fires: bool = False) -> CaptureView:
        """Begin; one that goes on already is only shown.

        Raises :class:`NotThere`, and :class:`Conflict` where nothing serves the sheet, it is closed, or
        its instrument is busy with another sheet.
        """
        served = self._served(sheet_id)
        with self._lock:
            there = self._going.get(sheet_id)
            if there is not None and there.running:
                return there.view()
            session = self._begin(served, by, fires=fires)
            self._going[sheet_id] = session
            session.start()
        if isinstance(session, Session) and fires:
            self._conduct(served, session)
        return session.view()

    def stop(self, sheet_id: int) -> CaptureView | None:
        """End it; what was captured is kept."""
        with self._lock:
            session = self._going.get(sheet_id)
            conductor = self._conductors.pop(sheet_id, None)
        if session is None:
            return None
        session.stop()
        if conductor is not None:
            conductor.join()
        return session.view()

    def ask(self, sheet_id: int, what: str, row: str = "") -> CaptureView:
        """Say something to a capture that goes on; :class:`NotThere` where none does."""
        with self._lock:
            session = self._going.get(sheet_id)
        if session is None or not session.running:
            rule = "nothing is being captured on this sheet"
            raise NotThere(Problem(path="sheet", rule=rule, value=str(sheet_id), code="no_capture"))
        session.ask(what, row)
        return session.view()

    def push(self, sheet_id: int, values: list[float]) -> None:
        """Figures of a browser's serial port."""
        with self._lock:
            session = self._going.get(sheet_id)
        if isinstance(session, Session):
            session.push(values)

    def close(self) -> None:
        """End them all: the application stops."""
        with self._lock:
            going = list(self._going)
        for sheet_id in going:
            self.stop(sheet_id)

    def _served(self, sheet_id: int) -> _Served:
        with transaction(self._engine) as connection:
            whole = known_sheet(connection, sheet_id)
            there, boxes = self._at_hand(connection, whole)
            gauges = [g for g in there if g.address]
        capturing = SCREEN_KINDS[whole.sheet.kind].capture
        unit = capturing.unit if capturing else ""
        fits = [g for g in gauges if (g.unit == unit if unit else g.name == whole.sheet.gauge_name)]
        others = [g.name for g in gauges if g.unit == (unit or whole.sheet.unit)]
        return _Served(
            whole=whole, capturing=capturing, gauge=fits[0] if fits else None,
            box=boxes[0] if boxes else None, others=tuple(others),
        )  # fmt: skip

    def _begin(self, served: _Served, by: str, *, fires: bool) -> Session | FolderSession:
        """A session of its own; with the lock held."""
        whole, gauge = served.whole, served.gauge
        still_open(closed=whole.closed, number=whole.job_number)
        why_not = _why_not(served)
        if why_not or gauge is None or served.capturing is None:
            raise Conflict(Problem(path="gauge", rule=why_not, code="no_instrument"))
        address = address_of(gauge.address)
        if any(s.running and s.address == address.where for s in self._going.values()):
            rule = "this instrument is busy on another sheet: stop the capture there first"
            raise Conflict(Problem(path="gauge", rule=rule, value=gauge.name, code="busy"))
        if fires and (served.box is None or not served.capturing.fires or address.way == "folder"):
            rule = "no burst box is on the shelf, or this sheet has no bursts"
            raise Conflict(Problem(path="box", rule=rule, code="no_box"))
        if address.way == "folder":
            return FolderSession(
                self._engine, whole.sheet.id, Path(address.where), gauge=gauge.name,
                unit=gauge.unit, by=by, thresholds=self._thresholds, tell=self._teller(whole),
                most_bytes=self._most_bytes, scheduler=self._scheduler,
            )  # fmt: skip
        wanted = Wanted(
            whole=whole, view=sheet_view(whole, self._thresholds), capturing=served.capturing,
            gauge=gauge.name, unit=gauge.unit, by=by, fires=fires,
            source=self._source(address, gauge, served.capturing), address=address.where,
            scheduler=self._scheduler,
        )  # fmt: skip
        return Session(self._engine, wanted, self._thresholds, self._teller(whole))

    def _source(self, address: Address, gauge: GaugeRecord, capturing: Capturing) -> Source:
        if address.way == "browser":
            return Pushed(self._scheduler)
        return ScpiGauge(
            address, command=command_of(gauge.command, gauge.unit), unit=gauge.unit, step=gauge.step,
            rate_hz=capturing.rate_hz, scheduler=self._scheduler,
        )  # fmt: skip

    def _teller(self, whole: WholeSheet) -> Callable[[Mapping[str, Any]], None]:
        return lambda message: self._hub.tell(whole.sheet.id, message)

    def _conduct(self, served: _Served, session: Session) -> None:
        assert served.box is not None  # noqa: S101  looked at when the session began
        kept = {k: str(v) for k, v in served.box.body.items()}
        burst = served.whole.sheet.conditions.get("burst") or {}
        pulses = int(burst.get("pulses") or kept.get("pulses") or PULSES)
        on_ms = float(parse_number(str(burst.get("on_ms") or kept.get("on_ms") or ON_MS), "on_ms"))
        conductor = Conductor(
            ScpiBox(address_of(kept["address"])), session, channels_of(served.whole),
            pulses=pulses, width_s=on_ms / 1000.0,
        )  # fmt: skip
        self._conductors[session.sheet_id] = conductor
        conductor.start()


def _why_not(served: _Served) -> str:
    """What is missing before a sheet can be captured; empty where nothing is."""
    capturing, gauge = served.capturing, served.gauge
    if capturing is None:
        return "this kind of sheet is not captured"
    if gauge is None and capturing.unit:
        return f"no instrument in {capturing.unit} on the shelf has an address"
    if gauge is None:
        lent = f"; {listed(served.others)} on the shelf has one" if served.others else ""
        return f"the gauge {served.whole.sheet.gauge_name!r} has no address on the shelf{lent}"
    way = address_of(gauge.address).way
    if way == "folder" and SCREEN_KINDS[served.whole.sheet.kind].trace is None:
        return f"{gauge.name} writes files, and this sheet takes none"
    return ""


def channels_of(whole: WholeSheet) -> dict[str, int]:
    """The channel of a burst box for each injector: its number, or its place among all."""
    labels = [i.label for i in whole.injectors if not i.retired]
    if all(label.isdecimal() for label in labels):
        return {label: int(label) for label in labels}
    return {label: n + 1 for n, label in enumerate(labels)}
