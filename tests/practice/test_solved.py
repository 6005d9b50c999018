"""Exercises worked through the API as a person would: Plumb's next step looked for, looked at, typed as it was seen."""

import re
from typing import Any

import pytest
from fastapi.testclient import TestClient
from tests.drivers import new_id
from tests.practice.conftest import School, Trainee

STATES = {"Key on": "key_on", "Running": "running", "Hose off": "hose_off", "Cranking": "cranking"}
REPAIR = {
    "clean_and_repeat": "clean", "replace": "replace", "bench_test": "rebuild", "reshim": "reshim",
}  # fmt: skip
MOST_STEPS = 25


class Robot:
    """Follows the next step; what it sees it types, and it runs the engine between two bursts."""

    def __init__(self, client: TestClient, run: Trainee) -> None:
        self.client, self.run = client, run
        self.steps: list[str] = []

    def follow(self) -> dict[str, Any]:
        """Until there is no next step; the job then."""
        self._walk(self.run.job()["route"][0])
        for _ in range(MOST_STEPS):
            job = self.run.known()
            step = job["next"]
            if step is None:
                return job
            self.steps.append(f"{step['kind']} {step['isolation']}".strip())
            self._do(job, step)
        message = f"no end after {self.steps}"
        raise AssertionError(message)

    def answer(self, job: dict[str, Any]) -> dict[str, Any]:
        """What Plumb's verdict comes to, as it is handed in."""
        injectors = {
            row["injector"]: {"condition": row["condition"], "repair": REPAIR[row["action"]]}
            for row in job["verdict"]["rows"]
            if row["action"] in REPAIR
        }
        found = [c["code"] for c in job["diagnosis"]["causes"] if c["state"] == "found"]
        known = {c["code"] for c in self.run.now()["causes"]}
        elsewhere = job["diagnosis"]["explained"] == "no"
        causes = [c for c in found if c in known]
        return {"injectors": injectors, "causes": causes, "elsewhere": elsewhere}

    def _do(self, job: dict[str, Any], step: dict[str, Any]) -> None:
        there = [k for k in job["route"] if k["kind"] == step["kind"] and k["sheet_id"]]
        sheet = self._sheet(there[-1]["sheet_id"]) if there else self._new(step["kind"])
        if step["isolation"]:
            self._try(sheet, step["isolation"])
            return
        rows = step["injectors"] or [r["injector"] for r in sheet["rows"]]
        for _ in range(step["passes"]):
            if step["kind"] == "pressure_drop":
                self._burn(sheet)
                for row in rows:
                    self._look(sheet, [row])
            else:
                self._look(sheet, rows if step["injectors"] else [])

    def _new(self, kind: str) -> dict[str, Any]:
        if kind == "tip_leak":
            self.run.act("relieve")
            self.run.act("lift")
        key = self.run.sheet(kind)
        return self.run.sheets[key]

    def _sheet(self, sheet_id: int) -> dict[str, Any]:
        made: dict[str, Any] = self.client.get(f"/practice/api/sheets/{sheet_id}").json()
        return made

    def _burn(self, sheet: dict[str, Any]) -> None:
        """The engine runs, on the bench and on the sheet."""
        self.run.act("start")
        self.run.act("stop")
        path = f"/practice/api/sheets/{sheet['id']}/engine-runs"
        assert self.client.post(path).status_code == 200

    def _walk(self, knot: dict[str, Any]) -> None:
        sheet = self._sheet(knot["sheet_id"])
        seen = self.run.seen(sheet["key"])
        words = seen["complaint"].split(", ")
        said = [c["code"] for c in sheet["form"]["complaints"] if c["label"] in words]
        put = {
            "complaint": " ".join(said),
            "hose": seen["vacuum hose"],
            "connectors": seen["connectors"],
        }
        self._put(sheet, put)

    def _put(self, sheet: dict[str, Any], put: dict[str, str]) -> None:
        version = self._sheet(sheet["id"])["version"]
        path = f"/practice/api/sheets/{sheet['id']}"
        answer = self.client.patch(path, json={"version": version, "put": put})
        assert answer.status_code == 200, answer.text

    def _try(self, sheet: dict[str, Any], step: str) -> None:
        if step == "tips":
            self.run.act("relieve")
        told = self.run.act("try", name=step)["told"]
        self._note(sheet, step, word=told[0]["text"])

    def _look(self, sheet: dict[str, Any], rows: list[str]) -> None:
        told = self.run.act("look", sheet=sheet["key"], rows=rows)["told"]
        getattr(self, f"_{sheet['kind']}")(sheet, told)

    def _note(self, sheet: dict[str, Any], row: str, **noted: str) -> None:
        body = {
            "id": new_id(), "injector": row, **noted,
            "confirmed": ["repeat", "far_off", "raw_fuel", "rise", "off_step"],
        }  # fmt: skip
        path = f"/practice/api/sheets/{sheet['id']}/readings"
        answer = self.client.post(path, json=body)
        assert answer.status_code in {200, 201}, (sheet["kind"], row, noted, answer.text)

    # What is seen on each kind of sheet, and how it is typed.

    def _supply_pressure(self, sheet: dict[str, Any], told: list[dict[str, str]]) -> None:
        put = {}
        for t in told:
            if t["row"] == "pump":
                put["pump"] = t["text"]
            elif t["row"] == "maker":
                name, low, high = re.fullmatch(
                    r"(.+): ([\d.]+) psi to ([\d.]+) psi", t["text"]
                ).groups()  # type: ignore[union-attr]
                state = STATES[name.capitalize()]
                put |= {f"windows.{state}.low": low, f"windows.{state}.high": high}
            else:
                self._note(sheet, STATES[t["row"]], value=t["text"].split()[0])
        self._put(sheet, put)

    def _pressure_drop(self, sheet: dict[str, Any], told: list[dict[str, str]]) -> None:
        for t in told:
            if t["row"].isdecimal():
                first, _, _, second, _ = t["text"].split()
                silent = float(first) - float(second) < 0.5
                noted = {"mark": "none"} if silent else {"second": second}
                self._note(sheet, t["row"], first=first, **noted)

    def _words(self, sheet: dict[str, Any], told: list[dict[str, str]]) -> None:
        for t in told:
            self._note(sheet, t["row"], word=t["text"])

    _command = _tip_leak = _words

    def _coil_resistance(self, sheet: dict[str, Any], told: list[dict[str, str]]) -> None:
        low, high = re.findall(r"\d+\.\d+", next(t["text"] for t in told if t["row"] == "maker"))
        self._put(sheet, {"window.low": low, "window.high": high, "temperature_c": "20"})
        for t in told:
            if t["row"].isdecimal():
                over = t["text"] == "OL"
                noted = {"mark": "over"} if over else {"value": t["text"].split()[0]}
                self._note(sheet, t["row"], **noted)

    def _scan(self, sheet: dict[str, Any], told: list[dict[str, str]]) -> None:
        for t in told:
            if t["row"]:
                self._note(sheet, t["row"], value=t["text"].split()[0])
        self._put(sheet, {"over_s": "120"})

    def _hold(self, sheet: dict[str, Any], told: list[dict[str, str]]) -> None:
        lost = next(re.findall(r"[\d.]+", t["text"]) for t in told if t["row"] == "maker")
        self._put(
            sheet, {"window.lost_at_most": lost[0], "window.within_s": str(60 * int(lost[1]))}
        )
        for t in told:
            if t["row"] != "maker":
                self._note(sheet, "", at_s=t["row"].split()[0], value=t["text"].split()[0])


@pytest.mark.parametrize("code", ["01", "02", "03", "04", "05", "06", "08", "09", "12", "14", "16"])
def test_followed_at_the_bench_it_is_solved(school: School, code: str) -> None:
    """What is seen there, typed, leads Plumb to the fault: everything found, nothing good condemned, nobody in danger."""
    run = school.begin(code)
    robot = Robot(school.client, run)
    job = robot.follow()
    done = run.hand_in(**robot.answer(job))
    points = run.points(done)
    lost = [
        m for m in done["marks"] if m["got"] < m["of"] and m["what"] not in {"minutes", "money"}
    ]
    assert lost == [], robot.steps
    assert done["incidents"] == []
    assert points["minutes"] > 0.0
