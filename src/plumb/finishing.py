"""From the verdict on, without a server: ways to put a job right, its report, its worksheet."""

from typing import Final

from rich.console import Console
from rich.table import Table

import plumb
from plumb.core.mend.options import Option, Prices, options_for
from plumb.core.mend.words import chance_words, way_words
from plumb.jobfile.exact import dumps
from plumb.jobfile.reading import parse
from plumb.jobfile.results import option_json
from plumb.jobfile.to_core import finished
from plumb.report.document import Shop, report_of
from plumb.report.paper import html_of, pdf_of
from plumb.report.worksheet import worksheet_of

PROGRAM: Final = f"Plumb {plumb.__version__}"
_ASKED: Final = {
    "labour_per_hour": "labour per hour",
    "reach_minutes": "minutes to reach them",
    "each_minutes": "minutes for each",
    "part": "price of a part",
    "cleaning": "price of a cleaning",
}


def plan(text: bytes, console: Console, *, as_json: bool) -> None:
    """What each way that fits the verdict of a job file can be expected to cost."""
    file = parse(text)
    prices = file.prices.core() if file.prices else Prices()
    options = options_for(finished(file).still_open, prices, {})
    if as_json:
        console.file.write(dumps({"options": [option_json(o) for o in options]}, indent=1) + "\n")
        return
    if not options:
        console.print("Nothing is to be put right.")
        return
    table = Table("Way", f"Expected {prices.currency}".strip(), "From, to", "Hours", "Second visit")
    for option in options:
        table.add_row(*_row(option))
    console.print(table)
    for option in options:
        name = way_words(option)
        console.print(f"{name}: {_why(option)}.", markup=False)
    if missing := [_ASKED[name] for name in prices.missing()]:
        console.print(f"Not said in the file: {', '.join(missing)}.", markup=False)


def _row(option: Option) -> list[str]:
    cost = option.cost
    return [
        way_words(option),
        "-" if cost is None else f"{cost.expected:.2f}",
        "" if cost is None or cost.low == cost.high else f"{cost.low:.2f}, {cost.high:.2f}",
        f"{option.hours:.1f}",
        f"{100 * option.second_visit:.0f} %" if option.second_visit else "",
    ]


def _why(option: Option) -> str:
    """What speaks for a way, how often it helps, what could go wrong."""
    chance = chance_words(option.chance) if option.chance else ""
    return "; ".join(w for w in (option.because, chance, option.risk) if w)


def report(text: bytes) -> bytes:
    """The report of a job file as PDF, with the file attached."""
    file = parse(text)
    made = report_of(file, finished(file), Shop(), program=PROGRAM)
    html = html_of("report.html.j2", r=made)
    name = f"job-{file.job.number or 'without-number'}.plumb.json"
    return pdf_of(html, title=f"Job {file.job.number}", attached={name: text})


def worksheet(text: bytes, base: str) -> bytes:
    """An empty worksheet for what is left to measure on a job file's job, as PDF."""
    file = parse(text)
    made = worksheet_of(file, finished(file), base=base)
    html = html_of("worksheet.html.j2", w=made)
    return pdf_of(html, title=f"Worksheet, job {file.job.number}")
