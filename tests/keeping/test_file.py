"""The file that a backup is: open to other programs, damaged ones refused."""

import gzip
import io
import subprocess
import tarfile
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

import pyrage
import pytest

from plumb.keeping.file import (
    FORMAT,
    About,
    about,
    making,
    pack,
    put_about,
    put_dump,
    unpack,
)
from plumb.keeping.trouble import KeepingTrouble

SQL = [b"CREATE TABLE `a` (b int);\n" * 4000, b"INSERT INTO `a` VALUES (1),(2);\n" * 90_000]
WORDS = "harbour slip anchor"


@pytest.fixture(autouse=True, scope="module")
def _opened_once() -> Iterator[None]:
    """A passphrase costs a second by design: each is tried once on each key."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(pyrage.passphrase, "decrypt", cache(pyrage.passphrase.decrypt))
        yield


def made(folder: Path, passphrase: str = "") -> Path:
    """A backup of the text."""
    file = folder / "one.plumb-backup"
    file.write_bytes(_packed(passphrase))
    file.chmod(0o600)
    return file


@cache
def _packed(passphrase: str) -> bytes:
    with TemporaryDirectory() as folder:
        return _made(Path(folder), passphrase).read_bytes()


def _made(folder: Path, passphrase: str) -> Path:
    file = folder / "one.plumb-backup"
    with making(file) as draft:
        with (folder / "data").open("w+b") as data:
            packed = pack(iter(SQL), passphrase, data)
            put_dump(draft, packed)
        said = About(
            format=FORMAT, made="2026-11-26T03:30:00+00:00", plumb="0.3.0", step="0013",
            sha256=packed.sha256, locked=bool(passphrase), rows={"plumb.job": 2},
        )  # fmt: skip
        put_about(draft, said)
    return file


@pytest.mark.parametrize("passphrase", ["", WORDS])
def test_what_went_in_comes_out(tmp_path: Path, passphrase: str) -> None:
    """The same text, in pieces; nothing else lies beside the file."""
    file = _made(tmp_path, passphrase)
    out: list[bytes] = []
    said = unpack(file, passphrase, out.append)
    assert b"".join(out) == b"".join(SQL)
    assert said == about(file)
    assert {p.name for p in tmp_path.iterdir()} == {"data", "one.plumb-backup"}
    assert file.stat().st_mode & 0o077 == 0


def test_tar_and_gzip_open_it_too(tmp_path: Path) -> None:
    """Without Plumb, by the programs that every machine has."""
    file = made(tmp_path)
    packed = subprocess.run(
        ["tar", "-xOf", str(file), "plumb.sql.gz"], capture_output=True, check=True
    ).stdout
    assert gzip.decompress(packed) == b"".join(SQL)


def test_age_opens_a_locked_one(tmp_path: Path) -> None:
    """Its key opens with the passphrase, and the dump with its key, as age-encryption.org/v1 has it."""
    with tarfile.open(made(tmp_path, WORDS)) as tar:
        parts = {m.name: tar.extractfile(m) for m in tar}
        read = {name: part.read() for name, part in parts.items() if part is not None}
    assert read["plumb.sql.gz.age"].startswith(b"age-encryption.org/v1\n")
    own = pyrage.x25519.Identity.from_str(
        pyrage.passphrase.decrypt(read["key.age"], WORDS).decode()
    )
    assert gzip.decompress(pyrage.decrypt(read["plumb.sql.gz.age"], [own])) == b"".join(SQL)
    assert b"INSERT" not in made(tmp_path, WORDS).read_bytes()


def test_no_or_another_passphrase(tmp_path: Path) -> None:
    """Told which of the two, and nothing comes out."""
    file = made(tmp_path, WORDS)
    out: list[bytes] = []
    for word, told in (("", "is locked"), ("harbor", "does not open")):
        with pytest.raises(KeepingTrouble, match=told):
            unpack(file, word, out.append)
    assert out == []


@pytest.mark.parametrize("passphrase", ["", WORDS])
def test_a_changed_byte_is_found_wherever_it_is(tmp_path: Path, passphrase: str) -> None:
    """In the first, middle and last part of the dump, at its end, and where the file was cut off."""
    file = made(tmp_path, passphrase)
    whole = file.read_bytes()
    with tarfile.open(file) as tar:
        member = next(m for m in tar if m.name.startswith("plumb.sql"))
    places = [member.offset_data + n * (member.size - 1) // 4 for n in range(1, 5)]
    damages = [whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :] for at in places]
    # Cut off within the dump, before what is said of it; and what is no tar.
    damages += [whole[: places[1]], whole[: places[3]], whole[:10], b"", b"tea" * 999]
    for damage in damages:
        file.write_bytes(damage)
        with pytest.raises(KeepingTrouble, match="Nothing was changed"):
            unpack(file, passphrase, io.BytesIO().write)


def test_one_of_a_newer_plumb(tmp_path: Path) -> None:
    """Its format is another: refused by name, not called damaged."""
    file = tmp_path / "new.plumb-backup"
    with tarfile.open(file, "w") as tar:
        text = b'{"format": 2, "more": true}'
        head = tarfile.TarInfo("about.json")
        head.size = len(text)
        tar.addfile(head, io.BytesIO(text))
    with pytest.raises(KeepingTrouble, match="newer Plumb"):
        about(file)


def test_what_breaks_while_it_is_packed_leaves_no_file(tmp_path: Path) -> None:
    """The database breaks off half-way: its own words, and nothing that looks like a backup."""

    def broken() -> object:
        yield b"CREATE"
        rule = "the database went away"
        raise KeepingTrouble(rule)

    for passphrase in ("", WORDS):
        with (
            pytest.raises(KeepingTrouble, match="went away"),
            making(tmp_path / "two.plumb-backup"),
            (tmp_path / "data").open("w+b") as data,
        ):
            pack(broken(), passphrase, data)  # type: ignore[arg-type]
    assert [p.name for p in tmp_path.iterdir()] == ["data"]
