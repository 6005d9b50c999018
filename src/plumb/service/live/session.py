"""One capture: figures come, are watched, become readings of the sheet, and are kept as a trace.

It runs on the server in a thread of its own, so that it goes on when a screen is closed.  What the
database does not take now is kept and tried again; what the instrument does not give is said.
"""

import math
import threading
import uuid
from bisect import bisect_left
from collections import deque
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, replace
from datetime import datetime
from itertools import pairwise
from typing import Any, Final

from sqlalchemy import Engine

from plumb.core.capture.watch import GAP_S, STATES, Event, Moved
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import AsksBack, Conflict, NotThere, PlumbError
from plumb.devices.instrument import Silent
from plumb.jobfile.kinds.kind import factor_of
from plumb.service.kinds.capturing import Captured
from plumb.service.kinds.entry import NewReading
from plumb.service.live.keeping import Stream, TakenFrom, bring_in, keep
from plumb.service.live.rows import open_row
from plumb.service.live.source import Pushed
from plumb.service.live.state import Heard, Now, Unsaved, Wanted
from plumb.service.uses.readings import save_reading
from plumb.service.uses.sheets import show_sheet
from plumb.service.views.live import CaptureView, LastView
from plumb.service.views.sheet import SheetView
from plumb.store.actor import as_now
from plumb.store.session import StoreBusy, StoreDown, StoreFull

TELL_S: Final = 0.05
"""Figures go to the screens so often."""
MOST_SAMPLES: Final = 2_000_000
SHOWN_S: Final = 30.0
FEW: Final = 20
FLAT: Final = 0.03
"""A pressure that moved by less of itself did not move: the injector gave nothing."""
AGAIN_S: Final = 0.3
"""After so long a silent instrument is asked again."""
_MACHINE: Final = ("off_step", "far_off", "point_missing", "rise")
"""What a person would be asked about; an instrument does not slip."""

Tell = Callable[[Mapping[str, Any]], None]


class Session:
    """A capture on one sheet."""

    def __init__(self, engine: Engine, wanted: Wanted, thresholds: Thresholds, tell: Tell) -> None:
        self._engine, self._wanted, self._thresholds, self._tell = engine, wanted, thresholds, tell
        self.sheet_id, self.address = wanted.whole.sheet.id, wanted.address
        self._keeper = ThreadPoolExecutor(1, thread_name_prefix=f"trace {self.sheet_id}")
        self._factor = factor_of(wanted.unit)
        self._watch = wanted.capturing.watch(wanted.whole)
        self._now = Now(row=open_row(wanted.view))
        self._names = {r.injector: r.name or r.injector for r in wanted.view.rows}
        self._view = wanted.view
        self._lock = threading.RLock()
        self._stop = threading.Event()
        self._asked: deque[tuple[str, str]] = deque()
        self._unsaved: deque[Unsaved] = deque()
        self._doubted: Captured | None = None
        self._t: list[float] = []
        self._values: list[float] = []
        self.scheduler = wanted.scheduler
        self._begun = self.scheduler.now()
        self._taken: list[TakenFrom] = []
        self._told_to = 0
        self._told_at = 0.0
        self.heard = Heard()
        self.request_id = str(uuid.uuid4())
        self._thread: threading.Thread | None = None

    # What a person does.

    def start(self) -> None:
        """Begin."""
        self._thread = self.scheduler.begin(as_now(self._run), f"capture {self.sheet_id}")

    def stop(self) -> None:
        """End; what was captured is kept.  Waits until that is done."""
        self._stop.set()
        if self._thread is not None and threading.current_thread() is not self._thread:
            self._thread.join(5.0)

    @property
    def running(self) -> bool:
        """Whether it goes on."""
        return not self._stop.is_set()

    def ask(self, what: str, row: str = "") -> None:
        """Say what nobody can see (kick), choose a row (aim), take a doubtful one (accept)."""
        self._asked.append((what, row))

    def push(self, values: list[float]) -> None:
        """Figures that a browser sends, where they come from one."""
        if isinstance(self._wanted.source, Pushed):
            self._wanted.source.push(values)

    def view(self) -> CaptureView:
        """How it stands now."""
        with self._lock:
            return self._as_view()

    def recent(self) -> dict[str, Any]:
        """The last half minute of its figures, for a screen that comes later."""
        with self._lock:
            since = (self._t[-1] if self._t else 0.0) - SHOWN_S
            begin = bisect_left(self._t, since)
            return self._samples(slice(begin, self._told_to))

    # For who works the engine.

    def row(self) -> str:
        """The row that stands next."""
        with self._lock:
            return self._now.row

    def state(self) -> str:
        """What the watch sees."""
        with self._lock:
            return self._now.state

    def burnt(self, row: str, fired: datetime | None) -> bool:
        """Whether the engine ran since a row's last burst: the one noted, and one that was only fired."""
        try:
            view = show_sheet(self._engine, self.sheet_id, self._thresholds)
        except (StoreDown, StoreBusy, NotThere):
            return False
        if any(r.raw for r in view.rows if r.injector == row):
            return False
        ran = view.engine_ran_at.removesuffix("Z")
        return fired is None or (bool(ran) and datetime.fromisoformat(ran) >= fired)

    def seen_flat(self, moment: float) -> bool:
        """Whether the figures came without a pause since a moment (of its scheduler), and stood still."""
        with self._lock:
            begin = moment - self._begun
            since = next((n for n, t in enumerate(self._t) if t >= begin), len(self._t))
            t, v = self._t[since:], self._values[since:]
            if self._now.trouble or len(t) < FEW:
                return False
            pause = max(b - a for a, b in pairwise([begin, *t]))
            return pause <= GAP_S and max(v) - min(v) <= FLAT * max(map(abs, v))

    def wait(self, *, text: str = "", trouble: str = "") -> None:
        """Say what the work waits for, or what is wrong with it."""
        with self._lock:
            if (text, trouble) != (self._now.waits, self._now.trouble):
                self._now.waits, self._now.trouble = text, trouble
                self._changed("trouble" if trouble else "doubt" if text else "")

    def no_answer(self, row: str) -> None:
        """A burst was fired, and the pressure did not move: that is a reading too."""
        self.ask("silent", row)

    # How it goes on.

    def _run(self) -> None:
        try:
            while self.running:
                try:
                    self._stream_on()
                except Silent as silent:
                    self._fell_silent(str(silent))
                    self.scheduler.wait(self._stop, AGAIN_S)
        finally:
            self._wanted.source.close()
            self._flush()
            self._keeper.submit(as_now(self._keep_trace), self._stream(), tuple(self._taken))
            self._keeper.shutdown()
            # It is kept as a trace now; a capture that has ended only says how it ended.
            self._t, self._values = [], []
            with self._lock:
                self._stop.set()
                self._now.running = False
                self._changed()

    def _stream_on(self) -> None:
        """Figure after figure until it is stopped, or :class:`Silent`."""
        for t, value in self._wanted.source.stream():
            self._sample(t, value)
            if self._stop.is_set():
                return

    def _fell_silent(self, why: str) -> None:
        self._told(final=True)
        with self._lock:
            if self._now.trouble != why:
                self._now.trouble = why
                self._changed("trouble")
        self._do_asked()
        self._save_waiting()

    def _sample(self, moment: float, value: float) -> None:
        t = moment - self._begun
        with self._lock:
            if self._now.trouble and not self._unsaved:
                self._now.trouble = ""
                self._changed()
        if math.isfinite(value) and len(self._t) < MOST_SAMPLES:
            self._t.append(t)
            self._values.append(value)
        self._do_asked()
        for event in self._watch.feed(t, value * self._factor):
            self._happened(event)
        self._told()
        self._save_waiting()

    def _do_asked(self) -> None:
        while self._asked:
            what, row = self._asked.popleft()
            if what == "kick":
                for event in self._watch.kick(self._t[-1] if self._t else 0.0):
                    self._happened(event)
            elif what == "aim" and row in self._names:
                with self._lock:
                    self._now.row = row
                    self._changed()
            elif what == "silent":
                captured = Captured(figures={"mark": "none"}, begin=0.0, end=0.0)
                self._keep_reading(captured, row)
                self.heard.say("read")
            elif what == "accept" and self._doubted is not None:
                captured, self._doubted = self._doubted, None
                self._keep_reading(captured, self._now.row)

    def _happened(self, event: Event) -> None:
        if isinstance(event, Moved):
            with self._lock:
                self._now.state = event.state
                self._changed("" if event.state != "gap" else "doubt")
            self.heard.say(event.state)
            return
        span = self._wanted.capturing.traced(event)
        if span is not None:
            self._bring_in(span)
            return
        captured = self._wanted.capturing.reads(event, self._wanted.whole)
        if captured is None:
            return
        if captured.doubts:
            self._doubt(captured)
        else:
            self._keep_reading(captured, self._now.row)
        self.heard.say("read" if not captured.doubts else "doubted")

    def _doubt(self, captured: Captured) -> None:
        self._doubted = captured
        with self._lock:
            self._now.last = self._last(captured, self._now.row, kept=False)
            self._changed("doubt")

    def _last(self, captured: Captured, row: str, *, kept: bool) -> LastView:
        return LastView(
            row=self._names.get(row, row), shown=captured.shown,
            confidence_percent=round(100.0 * captured.confidence, 1),
            doubts=list(captured.doubts), kept=kept,
        )  # fmt: skip

    def _keep_reading(self, captured: Captured, row: str) -> None:
        where = f"{self._wanted.gauge}, {captured.begin:.2f} to {captured.end:.2f} s"
        note = "doubtful: " + ", ".join(captured.doubts) if captured.doubts else ""
        reading = NewReading(
            id=str(uuid.uuid4()), injector=row, note=note[:500], by=self._wanted.by,
            confirmed=_MACHINE, captured=where,
        )  # fmt: skip
        figures: dict[str, Any] = dict(captured.figures)
        self._unsaved.append(Unsaved(replace(reading, **figures), captured))
        self._save_waiting(now=True)

    def _save_waiting(self, *, now: bool = False) -> None:
        """Keep what was taken; what the database does not take stays here and is tried again."""
        if not self._unsaved or not (now or self.scheduler.now() - self._told_at > AGAIN_S):
            return
        while self._unsaved:
            one = self._unsaved[0]
            try:
                view = save_reading(self._engine, self.sheet_id, one.reading, self._thresholds)
            except (StoreDown, StoreBusy, StoreFull):
                self.wait(
                    trouble="the database does not answer: the readings are kept here meanwhile"
                )
                return
            except (Conflict, NotThere) as error:
                self._unsaved.popleft()
                self.wait(trouble=error.problems[0].text())
                self._stop.set()
                return
            except (AsksBack, PlumbError) as error:
                self._unsaved.popleft()
                told = (*one.captured.doubts, error.problems[0].rule)
                self._doubt(replace(one.captured, doubts=told))
                continue
            self._unsaved.popleft()
            self._saved(one, view)

    def _saved(self, one: Unsaved, view: SheetView) -> None:
        self._doubted = None
        self._taken.append(
            TakenFrom(row=one.reading.injector, reading_id=one.reading.id,
                      begin=one.captured.begin, end=one.captured.end)
        )  # fmt: skip
        with self._lock:
            self._view = view
            self._now.taken += 1
            self._now.last = self._last(one.captured, one.reading.injector, kept=True)
            self._now.trouble = self._now.waits = ""
            if self._wanted.capturing.rows:
                self._now.row = open_row(view, one.reading.injector)
                done = not self._now.row
            else:
                done = view.hold is not None and view.hold.due_s is None
            self._changed("done" if done else "taken")
        # The figures come on meanwhile: a pause of theirs would make the next burst unseen.
        self._keeper.submit(as_now(self._keep_trace), self._stream(), tuple(self._taken))
        if done:
            self._stop.set()

    def _bring_in(self, span: tuple[float, float]) -> None:
        """A stretch of the stream is what the sheet is made of."""
        try:
            bring_in(self._engine, self.sheet_id, self._stream(), span, self._thresholds)
        except PlumbError as error:
            self.wait(text=f"again: {error.problems[0].rule}")
            return
        except (StoreDown, StoreBusy, StoreFull):
            self.wait(trouble="the database does not answer: crank again when it does")
            return
        with self._lock:
            self._now.taken += 1
            self._now.waits = ""
            self._changed("done")
        self._stop.set()

    def _stream(self) -> Stream:
        return Stream(
            request_id=self.request_id, name=f"captured from {self._wanted.gauge}",
            unit=self._wanted.unit, t=list(self._t), values=list(self._values),
        )  # fmt: skip

    def _keep_trace(self, stream: Stream, taken: tuple[TakenFrom, ...]) -> None:
        """What was captured so far, in the database: a crash costs no more than the last seconds."""
        if not taken or self._wanted.capturing.unit:
            return
        try:
            trace_id = keep(self._engine, self.sheet_id, stream, taken)
        except (StoreDown, StoreBusy, StoreFull, NotThere):
            return
        with self._lock:
            self._now.trace_id = trace_id

    def _flush(self) -> None:
        """At the end: what is not saved yet gets a last chance."""
        for _ in range(10):
            if not self._unsaved:
                return
            self._save_waiting(now=True)
            self.scheduler.sleep(AGAIN_S)

    # How it is told.

    def _told(self, *, final: bool = False) -> None:
        """New figures for the screens, a few at a time."""
        now = self.scheduler.now()
        if not final and now - self._told_at < TELL_S:
            return
        self._told_at = now
        fresh = slice(self._told_to, len(self._t))
        if fresh.start == fresh.stop:
            return
        self._told_to = len(self._t)
        self._tell(self._samples(fresh))

    def _samples(self, which: slice) -> dict[str, Any]:
        return {
            "type": "samples", "sheet": self.sheet_id,
            "t": [round(t, 3) for t in self._t[which]],
            "v": [float(f"{v:.6g}") for v in self._values[which]],
        }  # fmt: skip

    def _changed(self, sound: str = "") -> None:
        """Tell how it stands; with the lock held."""
        self._now.number += 1
        if sound:
            self._now.tone += 1
            self._now.sound = sound
        self._tell({"type": "capture", "capture": asdict(self._as_view())})

    def _as_view(self) -> CaptureView:
        now = self._now
        return CaptureView(
            sheet_id=self.sheet_id, number=now.number, running=now.running,
            gauge=self._wanted.gauge, unit=self._wanted.unit, by=self._wanted.by, state=now.state,
            told=STATES.get(now.state, now.state), row=now.row,
            name=self._names.get(now.row, now.row), waits=now.waits, trouble=now.trouble,
            unsaved=len(self._unsaved), taken=now.taken, last=now.last, tone=now.tone,
            sound=now.sound, fires=self._wanted.fires, kick=self._wanted.capturing.kick,
            trace_id=now.trace_id,
        )  # fmt: skip
