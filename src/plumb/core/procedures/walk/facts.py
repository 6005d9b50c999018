"""Facts of the walk-round: what must be put right before a gauge is fitted, what is complained of."""

from collections.abc import Iterator
from typing import Final

from plumb.core.measure.fact import Fact
from plumb.core.procedures.walk.analysis import WalkResult

MAKES: Final = {
    "hose_wet": "fuel stands in the regulator's vacuum hose",
    "connectors_bad": "connectors are loose or broken",
    "hose_dry": "the regulator's vacuum hose is dry",
    "connectors_good": "connectors are good",
    "complains_cold": "it is hard to start when cold",
}


def facts(key: str, result: WalkResult) -> Iterator[Fact]:
    """What was seen, and what of the complaint counts for the next step."""
    sheet = result.sheet
    if sheet.hose == "wet" and "hose" in sheet.looked_at:
        yield Fact(
            code="hose_wet", injector="", sheet=key, text="fuel stands in the regulator's hose"
        )
    if sheet.connectors in {"loose", "broken"} and "connectors" in sheet.looked_at:
        yield Fact(
            code="connectors_bad", injector="", sheet=key, text=f"connectors {sheet.connectors}"
        )
    if sheet.hose in {"dry", "damp"} and "hose" in sheet.looked_at:
        yield Fact(code="hose_dry", injector="", sheet=key, weighs=False)
    if sheet.connectors == "good" and "connectors" in sheet.looked_at:
        yield Fact(code="connectors_good", injector="", sheet=key, weighs=False)
    if "hard_start_cold" in sheet.complaint:
        yield Fact(code="complains_cold", injector="", sheet=key, weighs=False)
