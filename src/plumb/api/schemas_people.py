"""What the API takes in of people."""

from typing import Annotated, Literal

from pydantic import Field

from plumb.api.schemas import Body

Name = Annotated[str, Field(min_length=1, max_length=40, examples=["Ines K."])]
Code = Annotated[str, Field(min_length=1, max_length=40, examples=["K7QD-2M9X-TB4F-HW3P"])]
Password = Annotated[str, Field(max_length=200)]
Pin = Annotated[str, Field(max_length=12)]
Role = Literal["reader", "technician", "lead", "owner"]


class SignInIn(Body):
    """Name and password; or, at a paired tablet, who tapped their name, and the PIN."""

    name: str = Field("", max_length=40)
    password: Password = ""
    person_id: int = Field(0, ge=0, le=2**31 - 1)
    pin: Pin = ""


class FirstIn(Body):
    """A code, whom it is for, and what that person comes in by from now on."""

    name: Name
    code: Code
    password: Password = ""
    pin: Pin = ""


class ClaimIn(Body):
    """The code from the screen, and what this tablet is called."""

    code: Code
    name: Annotated[str, Field(min_length=1, max_length=60, examples=["bay 2"])]


class PersonIn(Body):
    """Somebody new."""

    name: Name
    role: Role


class PersonChangeIn(Body):
    """What is changed of a person; what is left out stays."""

    name: Name | None = None
    role: Role | None = None
    active: bool | None = None


class OwnIn(Body):
    """A new password or PIN of one's own, and the present one."""

    current: Password
    password: Password = ""
    pin: Pin = ""
