"""Passwords, PINs, cookies and codes: what is good enough, and what is kept of them.

Sources: OWASP ASVS 4.0.3, chapter 2 (lengths, no rules of composition, no common words), NIST SP
800-63B, 5.1.1 (the same, and no periodic change); Argon2id with pwdlib's usual cost (RFC 9106).
"""

import hashlib
import hmac
import secrets
from functools import cache
from itertools import pairwise
from typing import TYPE_CHECKING, Final

from plumb.core.measure.problems import PlumbError, Problem

if TYPE_CHECKING:
    from pwdlib import PasswordHash

LEAST_PASSWORD: Final = 12
MOST_PASSWORD: Final = 128
LEAST_PIN: Final = 4
MOST_PIN: Final = 8
LEAST_SCORE: Final = 3
"""Of zxcvbn's 0 to 4: from three on, guessing takes more than 10⁸ tries even for who knows the usual words."""
_LETTERS: Final = "23456789ABCDEFGHJKMNPQRSTVWXYZ"
"""Thirty that are not taken for one another when they are read from a screen."""
CODE_LETTERS: Final = 16


@cache
def hasher() -> "PasswordHash":
    """Argon2id at pwdlib's usual cost."""
    from pwdlib import PasswordHash  # noqa: PLC0415  who works alone is never asked for a password
    from pwdlib.hashers.argon2 import Argon2Hasher  # noqa: PLC0415

    return PasswordHash((Argon2Hasher(),))


@cache
def _nobodys() -> str:
    """A hash of nothing that anybody knows: an unknown name takes as long as a wrong password."""
    return hasher().hash(secrets.token_urlsafe(16))


def kept(word: str) -> str:
    """The hash of a password or PIN."""
    return hasher().hash(word)


def fits(word: str, hashed: str | None) -> bool:
    """Whether it is the one; takes as long where there is none."""
    right = hasher().verify(word, hashed or _nobodys())
    return right and hashed is not None


def new_token() -> str:
    """What a cookie holds: 256 bits at random."""
    return secrets.token_urlsafe(32)


def token_hash(token: str) -> str:
    """What is kept of a cookie or a code; both are long and at random, so SHA-256 is enough."""
    return hashlib.sha256(token.encode()).hexdigest()


def new_code() -> str:
    """A code to be read and typed: 78 bits in groups of four."""
    letters = [secrets.choice(_LETTERS) for _ in range(CODE_LETTERS)]
    return "-".join("".join(letters[i : i + 4]) for i in range(0, CODE_LETTERS, 4))


def code_hash(code: str) -> str:
    """What is kept of a code, however it was typed.

    >>> code_hash("ab2c-9xyz") == code_hash(" AB2C 9XYZ ")
    True
    """
    return token_hash("".join(c for c in code.upper() if c.isalnum()))


def same(one: str, other: str) -> bool:
    """Whether two words are the same, in a time that tells nothing."""
    return hmac.compare_digest(one.encode(), other.encode())


def check_password(word: str, name: str) -> None:
    """Raise :class:`PlumbError` with what is wrong with a new password."""
    if not LEAST_PASSWORD <= len(word) <= MOST_PASSWORD:
        rule = (
            f"a password has {LEAST_PASSWORD} to {MOST_PASSWORD} characters; several words are good"
        )
        raise PlumbError(Problem(path="password", rule=rule, code="length"))
    from zxcvbn import zxcvbn  # noqa: PLC0415  its lists take a while to come

    if zxcvbn(word[:72], user_inputs=[name, "plumb", "injector"])["score"] < LEAST_SCORE:
        rule = "this password is easily guessed; take several words that do not belong together"
        raise PlumbError(Problem(path="password", rule=rule, code="weak"))


def check_pin(word: str) -> None:
    """Raise :class:`PlumbError` with what is wrong with a new PIN.

    >>> check_pin("2580")
    """
    if not (LEAST_PIN <= len(word) <= MOST_PIN and word.isascii() and word.isdigit()):
        rule = f"a PIN has {LEAST_PIN} to {MOST_PIN} digits"
        raise PlumbError(Problem(path="pin", rule=rule, code="length"))
    steps = {int(b) - int(a) for a, b in pairwise(word)}
    if steps in ({0}, {1}, {-1}):
        rule = "four like ones, or ones in a row, are the first that anybody tries"
        raise PlumbError(Problem(path="pin", rule=rule, code="weak"))
