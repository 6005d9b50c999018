"""What is committed and made from the program: OpenAPI, the job file's JSON Schema, the list of words."""

import functools
import json
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine

from plumb.api.app import make_app
from plumb.api.settings import ROOT, Settings
from plumb.core.procedures import FUEL_SYSTEMS
from plumb.core.weigh.glossary import Glossary, glossary
from plumb.core.weigh.words_verdict import care
from plumb.jobfile.file import JobFile


@functools.cache
def openapi() -> dict[str, Any]:
    """The OpenAPI description; no database is touched."""
    return make_app(create_engine("mysql+pymysql://"), Settings(), Path("/nowhere")).openapi()


def job_schema() -> dict[str, Any]:
    """The JSON Schema of the job file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **JobFile.model_json_schema(by_alias=True),
    }


def words() -> str:
    """Every state and word by fuel system, as Markdown."""
    head = (
        "# Every state and word, by fuel system\n\n"
        "Made by `./plumb contract` from the tables that the program speaks from; not to be edited "
        "by hand.\n"
    )
    return head + "".join(_words_on(glossary(name)) for name in FUEL_SYSTEMS)


def _words_on(words: Glossary) -> str:
    lines = [f"\n## {words.fuel_system.replace('_', ' ').capitalize()}\n"]
    lines += ["| sheet | how | where it does not start | a row says |", "|---|---|---|---|"]
    for s in words.sheets:
        stalled = s.stalled.how if s.stalled.how != s.runs.how else "the same"
        if not s.possible_stalled:
            stalled = f"not asked for: {s.stalled.how}"
        rows = ", ".join(dict.fromkeys(s.kind.says_on(words.fuel_system))) or "no rows"
        lines.append(f"| {s.kind.title} | {s.runs.how} | {stalled} | {rows} |")
    lines.append("\nCare beside each sheet:\n")
    for s in words.sheets:
        lines.append(f"- **{s.kind.title}**: {s.runs.care}")
        if s.stalled.care != s.runs.care:
            lines.append(f"  - where it does not start: {s.stalled.care}")
    lines.append(f"- **Verdict**: {care(words.fuel_system)}")
    lines += [
        f"\nAn injector can be: {', '.join(words.conditions)}.",
        f"\nWhat to do with it: {', '.join(words.actions)}.",
        "\n| the verdict’s row | an injector is | do | because |", "|---|---|---|---|",
    ]  # fmt: skip
    lines += [
        f"| {r.name} | {r.condition.replace('_', ' ')} | {r.action.replace('_', ' ')} | {r.because} |"
        for r in words.rows
    ]
    for title, said in (
        ("To be checked first on the engine", words.causes),
        ("What could imitate a fault", words.doubts),
        ("What cannot both be right", words.contradictions),
        ("Why a sheet is asked for first", words.reasons),
    ):
        lines += [f"\n{title}:\n", *(f"- {text}" for text in said)] if said else []
    return "\n".join(lines) + "\n"


def write(folder: Path = ROOT / "docs") -> list[Path]:
    """Write the files; their paths."""
    made = [folder / "words.md"]
    made[0].write_text(words())
    for name, value in (("openapi.json", openapi()), ("job-file.schema.json", job_schema())):
        path = folder / name
        path.write_text(json.dumps(value, indent=1, ensure_ascii=False) + "\n")
        made.append(path)
    return made
