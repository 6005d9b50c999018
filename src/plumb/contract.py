"""The two contracts that are committed: the API's OpenAPI and the job file's JSON Schema."""

import json
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine

from plumb.api.app import make_app
from plumb.api.settings import ROOT, Settings
from plumb.jobfile.file import JobFile


def openapi() -> dict[str, Any]:
    """The OpenAPI description; no database is touched."""
    return make_app(create_engine("mysql+pymysql://"), Settings(), Path("/nowhere")).openapi()


def job_schema() -> dict[str, Any]:
    """The JSON Schema of the job file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **JobFile.model_json_schema(by_alias=True),
    }


def write(folder: Path = ROOT / "docs") -> list[Path]:
    """Write both files; their paths."""
    made = []
    for name, value in (("openapi.json", openapi()), ("job-file.schema.json", job_schema())):
        path = folder / name
        path.write_text(json.dumps(value, indent=1, ensure_ascii=False) + "\n")
        made.append(path)
    return made
