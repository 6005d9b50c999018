"""The report, the worksheet and the workbook: read back with other people's tools."""

import io
import json
import re
import subprocess
from pathlib import Path
from typing import Any

import openpyxl
import pikepdf
import pytest
from tests.drivers import DEMO, Desk, job_file
from typer.testing import CliRunner

from plumb.cli import app
from plumb.core.mend.bill import bill
from plumb.core.mend.options import Prices
from plumb.core.mend.repairs import DONE, Repair
from plumb.core.weigh.words_verdict import CONDITION_WORDS
from plumb.finishing import report, worksheet
from plumb.jobfile.reading import parse
from plumb.jobfile.results import analyse_file
from plumb.report.charts import Hung, plumb_chart
from plumb.report.paper import html_of, pdf_of
from plumb.report.plain import done_to, sentence_for
from plumb.report.workbook import job_book, period_book

SIGNED = (DEMO / "341.json").read_bytes()


def words_of(pdf: bytes, tmp_path: Path) -> str:
    """The text of a PDF in reading order, by poppler."""
    path = tmp_path / "paper.pdf"
    path.write_bytes(pdf)
    done = subprocess.run(["pdftotext", str(path), "-"], capture_output=True, check=True, text=True)
    return re.sub(r"\s+", " ", done.stdout)


@pytest.fixture(scope="module")
def paper() -> bytes:
    """The report of a job that is told to its end."""
    return report(SIGNED)


def test_the_report_reads_in_order(paper: bytes, tmp_path: Path) -> None:
    """First what the customer asks, then what it costs, then the workshop's part."""
    text = words_of(paper, tmp_path)
    in_order = [
        "Rough idle and smell of fuel: gone", "What was wrong", "dripped into its cylinder",
        "What was done", "Injector 5 was replaced", "injector 4 was cleaned",
        "What became of the complaint", "Please watch", "What it costs", "For the workshop",
        "Verdict", "Drop per injector",
    ]  # fmt: skip
    places = [text.find(words) for words in in_order]
    assert -1 not in places
    assert places == sorted(places)


def test_the_sum_is_that_of_the_lines(paper: bytes, tmp_path: Path) -> None:
    """One injector 120, one cleaning 25, 60 + 2 x 12 min at 90 an hour: 126; together 271."""
    text = words_of(paper, tmp_path)
    for amount in ("120.00", "25.00", "126.00", "271.00"):
        assert amount in text
    prices = Prices(labour_per_hour=90, reach_minutes=60, each_minutes=12, part=120)
    lines = bill((Repair(injector="4", done="cleaned"),), prices)
    assert [(x.what, x.amount) for x in lines] == [("Cleaning", None), ("Work", 108.0)]
    assert bill((), prices) == ()
    shims = bill((Repair(injector="1", done="reshimmed"),), prices)
    assert shims[0].count == pytest.approx((60 + 12 + 20) / 60)


def test_the_attached_file_gives_the_same_verdict_again(paper: bytes, tmp_path: Path) -> None:
    """The paper carries its own figures."""
    path = tmp_path / "paper.pdf"
    path.write_bytes(paper)
    subprocess.run(["pdfdetach", "-saveall", "-o", str(tmp_path), str(path)], check=True)
    attached = (tmp_path / "job-341.plumb.json").read_bytes()
    assert attached == SIGNED
    assert analyse_file(parse(attached)) == analyse_file(parse(SIGNED))


def test_tags_language_and_title(paper: bytes) -> None:
    """PDF/UA-1 (ISO 14289-1): marked, a tree of tags, a language, a title that is shown."""
    with pikepdf.open(io.BytesIO(paper)) as pdf:
        root = pdf.Root
        assert root.MarkInfo.Marked
        assert str(root.Lang) == "en"
        assert root.ViewerPreferences.DisplayDocTitle
        with pdf.open_metadata() as metadata:
            assert metadata["pdfuaid:part"] == "1"
            assert metadata["dc:title"] == "Report, job 341, Torvik Fastnet 3.0 V6"
        kinds = _tags(root.StructTreeRoot)
        # Drawings are figures, and every one is told in words.
        figures = [t for t in kinds if t[0] == "/Figure"]
        assert len(figures) >= 5
        assert all(told for _, told in figures)
    assert {"/H1", "/H2", "/Table", "/TH", "/TD"} <= {name for name, _ in kinds}


def _tags(node: Any) -> list[tuple[str, bool]]:
    made = []
    if isinstance(node, pikepdf.Dictionary):
        if "/S" in node:
            made.append((str(node.S), "/Alt" in node))
        if "/K" in node:
            made += _tags(node.K)
    elif isinstance(node, pikepdf.Array):
        for one in node:
            made += _tags(one)
    return made


def test_what_was_typed_stays_text(tmp_path: Path) -> None:
    """No markup of a complaint is run, and nothing is fetched for it."""
    file = job_file()
    file["job"]["complaint"] = '<img src="http://example.invalid/x.png"><b>loud</b>'
    text = words_of(report(json.dumps(file).encode()), tmp_path)
    assert "<b>loud</b>" in text
    fetched = html_of("report.html.j2", printed=False, r=_empty())
    assert "<h1>What was found</h1>" in fetched
    with_image = (
        '<html lang="en"><img src="http://example.invalid/x.png" alt="x"><p>there</p></html>'
    )
    assert "there" in words_of(pdf_of(with_image, title="x"), tmp_path)


def _empty() -> Any:
    from plumb.jobfile.to_core import finished  # noqa: PLC0415
    from plumb.report.document import Shop, report_of  # noqa: PLC0415

    file = job_file(())
    file["vehicle"]["injectors"] = [{"id": "1", "cylinder": 1}]
    checked = parse(json.dumps(file))
    return report_of(checked, finished(checked), Shop(), program="Plumb")


@pytest.mark.parametrize("path", sorted(DEMO.glob("*.json")), ids=lambda p: p.stem)
def test_every_demo_job_has_a_report(path: Path) -> None:
    """As a page, of each fuel system, begun or finished."""
    from plumb.jobfile.to_core import finished  # noqa: PLC0415
    from plumb.report.document import Shop, report_of  # noqa: PLC0415

    file = parse(path.read_bytes())
    made = report_of(file, finished(file), Shop(name="Saltmere"), program="Plumb")
    html = html_of("report.html.j2", r=made)
    assert html.count("<h3>") == len(made.sheets)
    assert made.vehicle in html
    assert len(made.sheets) <= len(file.sheets)


def test_a_re_shimmed_nozzle_is_drawn_before_and_after() -> None:
    """In the unit of its sheet: 118 bar hangs 6 bar below the mean of 127, 127 and 118."""
    from plumb.jobfile.to_core import finished  # noqa: PLC0415
    from plumb.report.document import Shop, report_of  # noqa: PLC0415

    file = job_file(((50, 26),) * 3)
    file["vehicle"]["fuel_system"] = "mechanical_diesel"
    first = {
        "kind": "opening_pressure", "id": "o", "unit": "bar", "gauge": {"step": 0.5}, "strokes": 3,
        "taken": "2026-11-14T10:30:00+02:00", "window": {"low": 122, "high": 132},
        "readings": [
            {"injector": i, "pass": p, "value": v}
            for i, v in (("1", 127), ("2", 127), ("3", 118)) for p in (1, 2, 3)
        ],
    }  # fmt: skip
    again = first | {
        "id": "o2", "after": "o", "taken": "2026-11-14T12:00:00+02:00",
        "readings": [{"injector": "3", "pass": p, "value": 127} for p in (1, 2, 3)],
    }  # fmt: skip
    file["sheets"] = [first, again]
    file["repairs"] = [{"injector": "3", "done": "reshimmed", "at": "2026-11-14T11:00:00+02:00"}]
    checked = parse(json.dumps(file))
    chart = report_of(checked, finished(checked), Shop(), program="Plumb").before_after
    assert chart is not None
    words = {r.row: r.words for r in chart.rows}
    assert words["3"].startswith("118 bar, re-shimmed: ")
    assert "re-shimmed" not in words["1"]


def test_every_condition_is_told_in_plain_words() -> None:
    """Of one and of several; and everything that can be done."""
    for condition in CONDITION_WORDS:
        if condition != "sound":
            assert sentence_for(condition, ["4"], None).startswith("Injector 4 ")
            assert sentence_for(condition, ["4", "5"], None).startswith("Injectors 4 and 5 ")
    assert "their winding" not in sentence_for("coil_open", ["4"], None)
    assert sentence_for("gives_less", ["4"], 0.256) == (
        "Injector 4 was clogged or sticking and gave about 26 % less fuel than the others."
    )
    for done in DONE:
        repair = Repair(
            injector="" if done == "put_right" else "4", done=done, swapped_with="2",
            cause="regulator_diaphragm",
        )  # fmt: skip
        assert done_to((repair,)).endswith(".")
    assert done_to(()) == ""


def test_a_chart_hangs_where_the_figures_say() -> None:
    """The middle is nought, the band one to each side, beyond the edge it says so."""
    chart = plumb_chart(
        [Hung(row="1", before=None, after=0.0, words=""), Hung(row="2", before=-1.0, after=1.0, words=""),
         Hung(row="3", before=None, after=9.0, words="")],
        half=3.0,
    )  # fmt: skip
    one, two, three = chart.rows
    assert one.after_x == chart.middle
    assert two.before_x == chart.band_from
    assert two.after_x == pytest.approx(chart.band_from + chart.band_wide, abs=0.02)
    assert (one.off, three.off) == (False, True)
    assert three.after_x == pytest.approx(chart.width)


def test_the_worksheet_asks_for_what_is_left(tmp_path: Path) -> None:
    """In reach order, with boxes; what was done or set aside is not asked for again."""
    file = job_file()
    file["vehicle"]["injectors"] = [{"id": x, "cylinder": n} for n, x in enumerate("BCA", 1)]
    for reading, label in zip(file["sheets"][0]["readings"], "BCA", strict=True):
        reading["injector"] = label
    file["job"]["set_aside"] = [{"kind": "tip_leak", "reason": "not on this one"}]
    text = words_of(worksheet(json.dumps(file).encode(), "http://office:8650"), tmp_path)
    assert "Walk-round" in text
    assert "Coils" in text
    assert "Drop per injector" not in text
    assert "Tip leak" not in text
    coils = text[text.find("Coils") :]
    assert coils.find("B") < coils.find("C", coils.find("B"))
    done = words_of(worksheet(SIGNED, "http://office"), tmp_path)
    assert "after the repair" not in done


def test_a_workbook_keeps_text_as_text() -> None:
    """A note that begins like a formula is none; figures are figures."""
    file = job_file(((50, 26), (50, 26.5)))
    file["sheets"][0]["readings"][0]["note"] = "=1+1"
    file["vehicle"]["distance_km"] = 1200.5
    checked = parse(json.dumps(file))
    book = openpyxl.load_workbook(io.BytesIO(job_book(checked, analyse_file(checked))))
    assert book.sheetnames == [
        "Job", "Drop per injector", "Findings", "Verdicts", "Repair", "Before and after",
    ]  # fmt: skip
    page = list(book["Drop per injector"].iter_rows(values_only=True))
    assert page[0] == (
        "sheet", "injector", "pass", "first, psi", "second, psi", "note", "taken",
    )  # fmt: skip
    assert page[2][:5] == ("s1", "2", 1, 50, 26.5)
    note = book["Drop per injector"]["F2"]
    assert (note.value, note.data_type) == ("=1+1", "s")
    assert book["Job"]["B5"].value == 1200.5
    rows = list(book["Findings"].iter_rows(values_only=True))
    assert [r[2] for r in rows[1:]] == ["1", "2"]
    assert rows[0][3] == "value, √psi"
    assert rows[1][3] == pytest.approx(50**0.5 - 26**0.5, abs=1e-3)
    words = next(book["Verdicts"].iter_rows(min_row=2, values_only=True))
    assert words[1] in CONDITION_WORDS.values()
    period = openpyxl.load_workbook(io.BytesIO(period_book([("1", "2026-05-12", "", "@van")])))
    assert period["Jobs"]["D2"].data_type == "s"


def test_the_commands_write_papers_without_a_server(tmp_path: Path) -> None:
    """And say what does not fit, with the file's name."""
    run = CliRunner()
    out = tmp_path / "r.pdf"
    for command in ("report", "worksheet"):
        done = run.invoke(app, [command, str(DEMO / "301.json"), "-o", str(out)])
        assert done.exit_code == 0, done.output
        assert out.read_bytes().startswith(b"%PDF")
    planned = run.invoke(app, ["plan", str(DEMO / "341.json"), "--json"])
    assert {o["option"] for o in json.loads(planned.output)["options"]} >= {
        "replace_flagged",
        "wait",
    } - {"wait"}
    bad = tmp_path / "bad.json"
    bad.write_text("{}")
    for command in ("report", "worksheet", "plan"):
        done = run.invoke(app, [command, str(bad)])
        assert done.exit_code == 2
        assert "bad.json" in done.output
    assert run.invoke(app, ["plan", str(tmp_path / "none.json")]).exit_code == 2


def test_papers_over_the_api(desk: Desk, tmp_path: Path) -> None:
    """Each with its type; a closed period, an unknown job and a day that is none are answered."""
    assert desk.bring_in(SIGNED.decode()).status_code == 200
    desk.client.put("/api/shop", json={"name": "Harbour workshop", "address": "Quay 3\nSaltmere"})
    pdf = desk.client.get("/api/jobs/341/report.pdf")
    assert pdf.headers["content-type"] == "application/pdf"
    text = words_of(pdf.content, tmp_path)
    assert text.startswith("Harbour workshop Quay 3 Saltmere")
    html = desk.client.get("/api/jobs/341/report.html")
    assert "Harbour workshop" in html.text
    assert desk.client.get("/api/jobs/341/worksheet.pdf").content.startswith(b"%PDF")
    book = openpyxl.load_workbook(io.BytesIO(desk.client.get("/api/jobs/341/book.xlsx").content))
    assert book["Repair"]["B2"].value == "replaced"
    period = desk.client.get(
        "/api/jobs-book.xlsx", params={"first": "2026-11-23", "last": "2026-11-23"}
    )
    rows = list(
        openpyxl.load_workbook(io.BytesIO(period.content))["Jobs"].iter_rows(values_only=True)
    )
    assert [r[0] for r in rows] == ["job", "341"]
    none = desk.client.get(
        "/api/jobs-book.xlsx", params={"first": "2026-11-24", "last": "2026-11-25"}
    )
    assert none.status_code == 200
    wrong = desk.client.get("/api/jobs-book.xlsx", params={"first": "soon", "last": "2026-11-25"})
    assert (wrong.status_code, wrong.json()["problems"][0]["path"]) == (422, "from")
    assert desk.client.get("/api/jobs/999/report.pdf").status_code == 404
