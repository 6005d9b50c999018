"""What a person takes along on paper: the report, the worksheet, workbooks."""

from base64 import b64encode
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time

from sqlalchemy import Connection, Engine

import plumb
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.mend.finish import Finished
from plumb.core.mend.told import says
from plumb.core.mend.words import repair_words
from plumb.jobfile.exact import dumps
from plumb.jobfile.file import JobFile
from plumb.jobfile.reading import check
from plumb.jobfile.results import result_json
from plumb.report.curves import Recorded
from plumb.report.document import Photo, Report, Shop, report_of
from plumb.report.paper import html_of, pdf_of
from plumb.report.worksheet import worksheet_of
from plumb.service.stored.analysis import weighed
from plumb.service.stored.commonness import common_here
from plumb.service.stored.finishing import repair_of
from plumb.service.stored.known import known_job
from plumb.service.stored.others import all_with_others
from plumb.service.uses.transfer import job_json
from plumb.store import finishing as store
from plumb.store import jobs as job_store
from plumb.store import photos as photo_store
from plumb.store import sheets as sheet_store
from plumb.store.records import JobRecord, VehicleRecord
from plumb.store.session import retried, transaction
from plumb.store.traces import newest_traces

PROGRAM = f"Plumb {plumb.__version__}"
MOST_IN_A_PERIOD = 5000


@dataclass(frozen=True, slots=True, kw_only=True)
class _OnPaper:
    """A job with all that its papers say."""

    text: str
    file: JobFile
    done: Finished
    shop: Shop
    photos: tuple[Photo, ...]
    recorded: dict[str, tuple[Recorded, ...]]


def _analysed(
    connection: Connection, job: JobRecord, vehicle: VehicleRecord, thresholds: Thresholds
) -> Finished:
    injectors = sheet_store.injectors_of(connection, vehicle.id)
    sheets = all_with_others(connection, sheet_store.sheets_of(connection, job.id))
    common = common_here(connection, vehicle.fuel_system)
    kept = store.kept_of(connection, job.id)
    return weighed(job, vehicle, injectors, sheets, thresholds, common, kept)


@retried
def _on_paper(engine: Engine, number: str, thresholds: Thresholds) -> _OnPaper:
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number)
        data = job_json(connection, job, vehicle)
        done = _analysed(connection, job, vehicle, thresholds)
        shop = store.shop(connection)
        photos = tuple(_photos(connection, job))
        recorded = dict(_recorded(connection, job))
    logo = _embedded(shop.logo, "jpeg") if shop.logo else ""
    return _OnPaper(
        text=dumps(data, indent=1) + "\n",
        file=check(data),
        done=done,
        shop=Shop(name=shop.name, address=tuple(shop.address.splitlines()), logo=logo),
        photos=photos,
        recorded=recorded,
    )


def _recorded(connection: Connection, job: JobRecord) -> Iterator[tuple[str, tuple[Recorded, ...]]]:
    """The newest trace of each sheet that has any, as it was kept to be drawn."""
    for key, trace in newest_traces(connection, job.id).items():
        begins, ends = float(trace.body["from_s"]), float(trace.body["to_s"])
        yield key, tuple(
            Recorded(
                name=c["name"], unit=c["unit"], from_s=begins, to_s=ends,
                low=[float(x) for x in c["low"]], high=[float(x) for x in c["high"]],
            )
            for c in trace.body.get("channels", ())
        )  # fmt: skip


def _photos(connection: Connection, job: JobRecord) -> Iterator[Photo]:
    """The photos that were ticked for the report."""
    for photo in photo_store.photos_of(connection, job.id):
        data = photo_store.picture(connection, photo.id, small=False) if photo.in_report else None
        if data is not None:
            words = photo.note or (f"at {photo.place}" if photo.place else "photo")
            yield Photo(src=_embedded(data, "jpeg"), words=words)


def _embedded(data: bytes, kind: str) -> str:
    return f"data:image/{kind};base64,{b64encode(data).decode()}"


def _report(paper: _OnPaper) -> Report:
    return report_of(
        paper.file,
        paper.done,
        paper.shop,
        program=PROGRAM,
        photos=paper.photos,
        recorded=paper.recorded,
    )


def report_pdf(engine: Engine, number: str, thresholds: Thresholds) -> bytes:
    """The report of a job as PDF, with its job file attached."""
    paper = _on_paper(engine, number, thresholds)
    html = html_of("report.html.j2", r=_report(paper))
    name = f"job-{number}.plumb.json"
    return pdf_of(html, title=f"Job {number}", attached={name: paper.text.encode()})


def report_html(engine: Engine, number: str, thresholds: Thresholds) -> str:
    """The same report as a page."""
    paper = _on_paper(engine, number, thresholds)
    return html_of("report.html.j2", printed=False, r=_report(paper))


def worksheet_pdf(engine: Engine, number: str, base: str, thresholds: Thresholds) -> bytes:
    """An empty worksheet for what is left to measure; ``base`` is the address of this Plumb."""
    paper = _on_paper(engine, number, thresholds)
    made = worksheet_of(paper.file, paper.done, base=base, shop=paper.shop.name)
    return pdf_of(html_of("worksheet.html.j2", w=made), title=f"Worksheet, job {number}")


def job_workbook(engine: Engine, number: str, thresholds: Thresholds) -> bytes:
    """A job as a workbook."""
    from plumb.report.workbook import job_book  # noqa: PLC0415  a start must not wait for it

    paper = _on_paper(engine, number, thresholds)
    return job_book(paper.file, result_json(paper.file, paper.done))


@retried
def period_workbook(engine: Engine, first: str, last: str, thresholds: Thresholds) -> bytes:
    """The jobs that were opened in a period, its days included, as a workbook."""
    from plumb.report.workbook import period_book  # noqa: PLC0415

    since, until = _day(first, "from"), _day(last, "to")
    with transaction(engine) as connection:
        found = job_store.jobs_opened(
            connection, datetime.combine(since, time.min), datetime.combine(until, time.max),
            MOST_IN_A_PERIOD,
        )  # fmt: skip
        return period_book(_lines(connection, found, thresholds))


def _lines(
    connection: Connection,
    found: Sequence[tuple[JobRecord, VehicleRecord]],
    thresholds: Thresholds,
) -> Iterator[tuple[str, ...]]:
    for job, vehicle in found:
        kept = store.kept_of(connection, job.id)
        injectors = sheet_store.injectors_of(connection, vehicle.id, retired=True)
        labels = {i.id: i.label for i in injectors}
        parts = {p.repair_id: p for p in kept.parts}
        done = _analysed(connection, job, vehicle, thresholds)
        closed = f"{job.closed_at:%Y-%m-%d}" if job.closed_at else ""
        yield (
            job.number, f"{job.opened_at:%Y-%m-%d}", closed, vehicle.name, vehicle.registration,
            job.complaint, says(done),
            "; ".join(repair_words(repair_of(r, labels, parts)) for r in kept.repairs),
            kept.signatures[-1].by_whom if kept.signatures else "",
        )  # fmt: skip


def _day(text: str, path: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise PlumbError(
            Problem(path=path, rule="a day like 2026-05-12", value=text, code="no_day")
        ) from None
