"""What the API takes in of what goes on by itself: instruments, captures, simulations."""

from dataclasses import fields
from typing import Literal

from pydantic import Field

from plumb.api.schemas import Body, GaugeUnit
from plumb.jobfile.models import UnitName
from plumb.service.views.worth import SetupView


class TryIn(Body):
    """An instrument to be asked, as typed; without a unit it is a burst box."""

    address: str = Field(
        min_length=1, max_length=120, examples=["TCPIP::192.168.4.20::5025::SOCKET"]
    )
    command: str = Field("", max_length=60, examples=["MEAS:PRES?"])
    unit: GaugeUnit | Literal[""] = ""


class CaptureIn(Body):
    """Begin a capture: by whom, and whether a burst box does the work."""

    by: str = Field("", max_length=40)
    fires: bool = False


class SaidIn(Body):
    """What is said to a capture: kick, aim (with a row) or accept."""

    what: str = Field(pattern="^(kick|aim|accept)$")
    row: str = Field("", max_length=24)


class SetupIn(Body):
    """What to simulate: gauge, a good burst, how far starts wander, the set, what is allowed."""

    unit: UnitName = "psi"
    step: float = Field(0.5, gt=0, le=5000)
    first: float = Field(50, gt=0, le=400_000)
    second: float = Field(26, ge=0, le=400_000)
    scatter: float = Field(0.7, ge=0, le=5000)
    size: int = Field(6, ge=3, le=16)
    tolerance_percent: float = Field(10, ge=2, le=40)
    passes: int = Field(1, ge=1, le=5)
    ideal: bool = True
    rule: str = Field("flow_index", max_length=90)
    sets: int = Field(600, ge=1, le=2000, description="so many sets, then it ends by itself")

    def view(self) -> SetupView:
        """The same for the service."""
        known = {f.name for f in fields(SetupView)} - {"told"}
        return SetupView(told="", **self.model_dump(include=known))


class PlanIn(SetupIn):
    """What to be sure of: an injector off by so much is called out with this certainty."""

    off_percent: float = Field(15, gt=0, le=90)
    certainty_percent: float = Field(95, ge=50, le=99.9)
