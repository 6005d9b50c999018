"""Why somebody is not let in, as errors that ``api/problems.py`` makes 401, 403 and 429 of."""

from plumb.core.measure.problems import PlumbError, Problem


class NotSignedIn(PlumbError):
    """Nobody is signed in here, or what was shown for it is not right."""


class MayNot(PlumbError):
    """Somebody is signed in, and this is for others to do."""


class TooOften(PlumbError):
    """It went wrong so often that nobody is asked for ``wait_s`` seconds."""

    def __init__(self, wait_s: int) -> None:
        self.wait_s = wait_s
        rule = f"that went wrong too often; try again in {_spoken(wait_s)}"
        super().__init__(Problem(path="", rule=rule, code="too_often"))


def _spoken(seconds: int) -> str:
    """Seconds as they are told.

    >>> _spoken(1), _spoken(90), _spoken(600)
    ('1 second', '90 seconds', '10 minutes')
    """
    if seconds > 120:
        return f"{-(-seconds // 60)} minutes"
    return f"{seconds} second{'' if seconds == 1 else 's'}"


def not_in(rule: str, path: str = "", code: str = "not_signed_in") -> NotSignedIn:
    """Nobody comes in, and why."""
    return NotSignedIn(Problem(path=path, rule=rule, code=code))
