"""What reads files, given nonsense that is led by the code it reaches: run by ``test_nonsense.py`` in a process of its own.

``python fuzz.py WHICH RUNS FOLDER``: job files, CSV of readings, traces, whole jobs, addresses and answers
of instruments.  Anything but an error of Plumb's own ends it with a traceback and the input in a file.
"""

import io
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Final

import atheris

with atheris.instrument_imports(
    include=["plumb.jobfile", "plumb.devices", "plumb.service.uses.archive"]
):
    from plumb.core.measure.problems import PlumbError
    from plumb.devices.address import address_of
    from plumb.jobfile.csvfile import Target, parse_csv
    from plumb.jobfile.kinds import FILE_KINDS
    from plumb.jobfile.reading import parse
    from plumb.jobfile.results import analyse_file
    from plumb.jobfile.tracefile import TraceReader, as_utf8, harmless
    from plumb.service.uses.archive import JOB, opened

DEMO: Final = Path(__file__).parents[2] / "src" / "plumb" / "demo"


def _job(data: bytes) -> None:
    analyse_file(parse(data))


def _csv(data: bytes) -> None:
    kinds = sorted(FILE_KINDS)
    kind = kinds[data[0] % len(kinds)] if data else kinds[0]
    target = Target(
        job="301", sheet="a", unit="kPa", injectors=("1", "2", "3", "4"), kind=kind,
        cylinders={"1": 1, "2": 2},
    )  # fmt: skip
    parse_csv(data[1:].decode("utf-8", "replace"), target)


def _trace(data: bytes) -> None:
    reader = TraceReader()
    text = as_utf8(data)
    for begin in range(0, len(text), 700):
        reader.feed(text[begin : begin + 700])
    reader.close()
    harmless(data)


def _whole(data: bytes) -> None:
    with opened(io.BytesIO(data)) as box:
        parse(box.read(JOB))


def _address(data: bytes) -> None:
    address_of(data.decode("utf-8", "replace"))


READERS: Final[dict[str, Callable[[bytes], None]]] = {
    "job": _job, "csv": _csv, "trace": _trace, "whole": _whole, "address": _address,
}  # fmt: skip


def _begin_with(which: str, folder: Path) -> None:
    """Good files, from which nonsense is made."""
    folder.mkdir(parents=True, exist_ok=True)
    if which == "job":
        for file in sorted(DEMO.glob("*.json"))[::6]:
            (folder / file.stem).write_bytes(file.read_bytes())
    seeds = {
        "csv": [b"\x00injector,pass,reading,value,unit\n1,1,first,50,kPa\n1,1,second,26,kPa\n"],
        "trace": [b"t_s;kPa\n0,0;300\n0,1;299\n", b"Logger 7\n\ntime,pressure\ns,bar\n0,3\n0.1,2.9\n"],
        "address": [b"TCPIP::192.168.4.20::5025::SOCKET", b"ASRL/dev/ttyUSB0", b"FOLDER:/srv", b"BROWSER:SERIAL"],
    }  # fmt: skip
    if which == "whole":
        with zipfile.ZipFile(folder / "whole", "w") as box:
            box.writestr(JOB, (DEMO / "301.json").read_bytes())
    for n, text in enumerate(seeds.get(which, [])):
        (folder / str(n)).write_bytes(text)


def main() -> None:
    """Read so many pieces of nonsense."""
    which, runs, folder = sys.argv[1], sys.argv[2], Path(sys.argv[3])
    _begin_with(which, folder / which)
    reader = READERS[which]

    def one(data: bytes) -> None:
        try:
            reader(data)
        except PlumbError as error:
            told = [p.rule for p in error.problems]
        else:
            return
        if not all(told) or not told:
            raise ValueError(told)

    options = [f"-runs={runs}", "-max_len=6000", "-rss_limit_mb=4096", "-timeout=20", "-print_final_stats=1",
               f"-artifact_prefix={folder}/", str(folder / which)]  # fmt: skip
    atheris.Setup([sys.argv[0], *options], one)
    atheris.Fuzz()


if __name__ == "__main__":
    main()
