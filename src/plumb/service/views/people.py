"""People as screens show them.  Times are ISO texts in UTC."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class StaffView:
    """Somebody of the shop; ``pin`` and ``password`` tell whether there is one, ``code`` that one waits."""

    id: int
    name: str
    role: str
    active: bool
    pin: bool
    password: bool
    code: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TileView:
    """A name to tap at a tablet; without a PIN the person comes in with a code the first time."""

    id: int
    name: str
    pin: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class HereView:
    """Who is at this screen.

    ``network``: people sign in here; without it everything is open and done by "this workshop".
    ``owner_wanted``: the code of the first start makes its holder the owner.  ``device`` is the paired
    tablet's name, with the people who come in there by tapping theirs.  ``idle_minutes``: after so long
    without a touch the screen goes back to the names.
    """

    network: bool
    owner_wanted: bool
    person: StaffView | None
    device: str
    people: list[TileView]
    idle_minutes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class CodeView:
    """A code, told this once; ``address`` opens the page it is for, ``picture`` is that as SVG."""

    code: str
    until: str
    address: str = ""
    picture: str = ""
    person: StaffView | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceView:
    """A paired tablet; ``ended`` is empty while it is in use."""

    id: int
    name: str
    paired: str
    paired_by: str
    seen: str
    ended: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SignInView:
    """Somebody who is signed in: where, since when, last seen; ``mine``: it is the one that asks."""

    id: int
    person: str
    device: str
    where: str
    begun: str
    seen: str
    mine: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldChangeView:
    """One field of a change: as it was and as it became, as texts; empty where there was nothing."""

    field: str
    was: str
    became: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeView:
    """One change: when, who, at which tablet, what; ``seq`` is 0 until it is sealed."""

    id: int
    at: str
    by: str
    device: str
    what: str
    doing: str
    job: str
    sheet: int | None
    where: str
    fields: list[FieldChangeView]
    seq: int


@dataclass(frozen=True, slots=True, kw_only=True)
class JournalView:
    """A page of changes, the newest first; ``more``: there are older ones."""

    changes: list[ChangeView]
    more: bool
    names: list[str]
    things: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckedView:
    """How many entries were looked at, the last seal, and what is wrong, or nothing."""

    entries: int
    hash: str
    wrong: str
