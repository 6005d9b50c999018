"""A value on the edge that a person takes as it is: kept with its reason, told everywhere, taken back."""

from typing import Any

from tests.drivers import Desk


def accept(desk: Desk, number: str, injector: str, reason: str) -> Any:
    """Take a value as it is; without a reason that is taken back."""
    body = {"accepted": {"injector": injector, "reason": reason}}
    return desk.client.patch(f"/api/jobs/{number}", json=body)


def row(job: dict[str, Any], injector: str) -> dict[str, Any]:
    """An injector's row of the verdict."""
    made: dict[str, Any] = next(r for r in job["verdict"]["rows"] if r["injector"] == injector)
    return made


def test_a_value_that_is_not_settled_can_be_accepted(desk: Desk) -> None:
    """The next step asks no more for it, the verdict keeps it, the file takes the reason along, and it can be taken back."""
    sheet = desk.open_job()
    number = sheet["job_number"]
    for n, figures in zip("1234", ("50 26", "50 26", "50 28.5", "50 26"), strict=True):
        desk.type(sheet, n, figures)
    before = desk.client.get(f"/api/jobs/{number}").json()
    assert (row(before, "3")["condition"], row(before, "3")["can_be_accepted"]) == (
        "not_settled",
        True,
    )
    assert before["next"]["injectors"] == ["3"]
    after = accept(desk, number, "3", "runs well, no finer gauge here").json()
    kept = row(after, "3")
    assert (kept["condition"], kept["action"], kept["can_be_accepted"]) == ("sound", "keep", False)
    assert kept["because"] == "accepted as it is: runs well, no finer gauge here"
    assert after["next"] is None or "3" not in after["next"]["injectors"]
    file = desk.client.get(f"/api/jobs/{number}/file").json()
    assert [a["reason"] for a in file["job"]["accepted"]] == ["runs well, no finer gauge here"]
    file["job"]["number"] = "903"
    assert desk.bring_in(file).status_code == 200
    assert row(desk.client.get("/api/jobs/903").json(), "3")["accepted"] != ""
    back = accept(desk, number, "3", " ").json()
    assert row(back, "3")["condition"] == "not_settled"


def test_what_is_told_cannot_be_accepted_away(desk: Desk) -> None:
    """One that gives less stays what it is, and an injector that is not there is refused."""
    sheet = desk.open_job()
    number = sheet["job_number"]
    for n, figures in zip("1234", ("50 26", "50 26", "50 33", "50 26"), strict=True):
        desk.type(sheet, n, figures)
    after = accept(desk, number, "3", "customer in a hurry").json()
    assert (row(after, "3")["condition"], row(after, "3")["accepted"]) == ("gives_less", "")
    assert accept(desk, number, "9", "why not").status_code == 422
