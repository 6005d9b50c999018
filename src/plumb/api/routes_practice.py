"""Practice: engines with hidden faults.  Their jobs are under ``/practice``, an application of its own."""

from fastapi import Response

from plumb.api.deps import Practising, Shop
from plumb.api.intake import routes_of
from plumb.api.routes_files import download
from plumb.api.schemas_practice import ActIn, BeginIn, HandedIn
from plumb.service.practice import runs, shown
from plumb.service.practice.begin import Begin, begin
from plumb.service.views.practice import PracticeView, RunView

router = routes_of("practice")


@router.get("/practice")
def show_practice(world: Practising) -> PracticeView:
    """All exercises, all runs, and how far everybody has come."""
    return shown.practice_view(world)


@router.post("/practice/runs", status_code=201)
def begin_run(wanted: BeginIn, world: Practising, shop: Shop) -> RunView:
    """Begin an exercise; the answer has the number of its job."""
    number = begin(world, Begin(**wanted.model_dump()), shop.thresholds())
    return shown.run_view(world, number)


@router.get("/practice/runs/{run_number}")
def show_run(run_number: str, world: Practising) -> RunView:
    """A run as it stands."""
    return shown.run_view(world, run_number)


@router.post("/practice/runs/{run_number}/acts")
def act(run_number: str, wanted: ActIn, world: Practising) -> RunView:
    """Do something at its bench."""
    given = {**wanted.model_dump(), "rows": tuple(wanted.rows)}
    runs.act(world, run_number, runs.Act(**given))
    return shown.run_view(world, run_number)


@router.post("/practice/runs/{run_number}/hints")
def ask_hint(run_number: str, world: Practising, shop: Shop) -> RunView:
    """Ask what Plumb would do next; it costs points."""
    runs.hint(world, run_number, shop.thresholds())
    return shown.run_view(world, run_number)


@router.post("/practice/runs/{run_number}/answer")
def hand_in(run_number: str, answer: HandedIn, world: Practising) -> RunView:
    """Hand in a verdict and the repair; the answer has the marks."""
    said = runs.Answer(
        injectors={row: (j.condition, j.repair) for row, j in answer.injectors.items()},
        causes=tuple(answer.causes), elsewhere=answer.elsewhere,
    )  # fmt: skip
    runs.hand_in(world, run_number, said)
    return shown.run_view(world, run_number)


@router.get("/practice/runs/{run_number}/result.pdf", response_class=Response)
def print_result(run_number: str, world: Practising) -> Response:
    """How it was marked, on paper."""
    return download(
        shown.run_pdf(world, run_number), f"practice-{run_number}.pdf", "application/pdf"
    )
