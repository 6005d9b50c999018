"""Which row a capture reads next."""

from plumb.service.views.sheet import RowView, SheetView


def open_row(view: SheetView, after: str = "") -> str:
    """The row that is to be read next: the first that was not read, then what the sheet asks for.

    Empty where nothing is left, or where its readings are no rows.
    """
    strokes = view.entry.strokes
    rows = [r for r in view.rows if not r.spared]
    # A nozzle is stroked until it was stroked often enough; of anything else the next row is next.
    on = 0 if strokes else 1
    at = next((n + on for n, r in enumerate(rows) if r.injector == after), 0)
    for row in (*rows[at:], *rows[:at]):
        if (_strokes(row) < strokes) if strokes else row.count == 0:
            return row.injector
    step = view.next
    if step is None or step.kind != view.kind or step.anew:
        return ""
    asked = set(step.injectors)
    return next((r.injector for r in (*rows[at:], *rows[:at]) if r.injector in asked), "")


def _strokes(row: RowView) -> int:
    return row.nozzle.strokes if row.nozzle is not None else row.count
