"""From the verdict to a signed job, over the API: ways, repairs, before and after, closing, history."""

import json
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import Engine, text
from tests.drivers import Desk, job_file, new_id

from plumb.core.measure.decision import Thresholds
from plumb.service.uses import finishing as service
from plumb.store.session import transaction

PRICES = {
    "currency": "EUR", "labour_per_hour": 90, "reach_minutes": 60, "each_minutes": 10, "part": 120,
    "cleaning": 25,
}  # fmt: skip
PAIRS = ((50, 26), (50, 26.5), (50, 26), (50, 31.5))


def clogged(desk: Desk, **more: Any) -> str:
    """A job on which 4 gives less, with a complaint; its number."""
    file = job_file(PAIRS)
    file["job"] |= {"complaint": "rough idle", "codes": ["P0304"]}
    file["vehicle"]["registration"] = "SM-22"
    answer = desk.bring_in(file | more)
    assert answer.status_code == 200, answer.text
    return str(answer.json()["job_number"])


def finishing(desk: Desk, number: str = "900") -> dict[str, Any]:
    """The job from its verdict on."""
    made: dict[str, Any] = desk.client.get(f"/api/jobs/{number}").json()["finishing"]
    return made


def put(desk: Desk, path: str, **body: Any) -> dict[str, Any]:
    """What a person notes; the job as it is then."""
    answer = desk.client.put(f"/api/jobs/900/{path}", json=body)
    assert answer.status_code == 200, answer.text
    made: dict[str, Any] = answer.json()
    return made


def repair(desk: Desk, **body: Any) -> dict[str, Any]:
    """A repair of 4, unless another is named."""
    return put(desk, f"repairs/{new_id()}", **({"injector": "4"} | body))


def after_sheet(desk: Desk, figures: str = "50 26.5", injector: str = "4") -> dict[str, Any]:
    """The next step's sheet, begun and read."""
    step = desk.client.get("/api/jobs/900").json()["next"]
    sheet = desk.client.post(
        "/api/jobs/900/sheets",
        json={"request_id": new_id(), "kind": step["kind"], "after": step["after"]},
    ).json()
    assert desk.type(sheet, injector, figures).status_code == 200
    made: dict[str, Any] = desk.client.get("/api/jobs/900").json()
    return made


def test_ways_with_the_shelfs_prices_and_what_is_missing(desk: Desk) -> None:
    """Hours alone at first; the shelf's prices; those of this vehicle go before those of every one."""
    clogged(desk)
    first = finishing(desk)
    assert [o["cost"] for o in first["options"] if o["option"] != "wait"] == [None] * 4
    assert first["missing"][0] == "labour_per_hour"
    assert "Clean 4, then replace what stays" in [o["title"] for o in first["options"]]

    def price(name: str, **values: str) -> int:
        body = {"what": "price", "name": name, "values": values}
        answer = desk.client.post("/api/shelf", json=body)
        assert answer.status_code == 201, answer.text
        return int(answer.json()["id"])

    typed = {k: str(v) for k, v in PRICES.items()}
    entry = price("every vehicle", **typed)
    costs = {o["option"]: o["cost"] for o in finishing(desk)["options"]}
    assert costs["clean_then_replace"] == 220.0
    assert costs["replace_flagged"] == 225.0
    assert costs["whole_set"] == 630.0
    assert finishing(desk)["currency"] == "EUR"
    price("Torvik Lundy 1.8", part="200,5")
    costs = {o["option"]: o["cost"] for o in finishing(desk)["options"]}
    assert costs["replace_flagged"] == 305.5
    wrong = {"what": "price", "name": "every vehicle", "values": {"part": "-1"}}
    answer = desk.client.put(f"/api/shelf/{entry}", json=wrong)
    assert (answer.status_code, answer.json()["problems"][0]["path"]) == (422, "part")
    desk.client.put("/api/shop", json={"name": "Harbour workshop", "currency": "NOK"})
    assert desk.client.get("/api/shop").json()["name"] == "Harbour workshop"


def test_a_choice_stays_in_the_record_and_waiting_comes_back_on_its_day(
    desk: Desk, engine: Engine
) -> None:
    """Two choices, both kept; waiting is due on its day, and no more once the vehicle is back."""
    clogged(desk)
    put(desk, f"choices/{new_id()}", option="clean_all", reason="all dirty", by="Tomas R.")
    soon = datetime.now(UTC).date() + timedelta(30)
    same = new_id()
    for _ in range(2):
        job = put(
            desk, f"choices/{same}", option="wait", injectors=["4"], by="Ines K.",
            look_on=soon.isoformat(), look_at="124000",
        )  # fmt: skip
    kept = job["finishing"]["choices"]
    assert [(c["option"], c["by"]) for c in kept] == [
        ("clean_all", "Tomas R."), ("wait", "Ines K."),
    ]  # fmt: skip
    assert desk.client.get("/api/look-again").json() == []
    assert service.look_again(engine, soon - timedelta(1)) == []
    due = service.look_again(engine, soon)
    assert [(d.number, d.registration, d.look_at) for d in due] == [("900", "SM-22", "124000")]
    vehicle = job["vehicle"]["id"]
    desk.open_job(vehicle_id=vehicle)
    assert service.look_again(engine, soon) == []
    wrong = desk.client.put(
        f"/api/jobs/900/choices/{new_id()}", json={"option": "wait", "look_on": "2026-02-30"}
    )
    assert wrong.status_code == 422
    assert "2026-05-12" in wrong.json()["problems"][0]["rule"]


def test_from_the_verdict_to_a_signed_job(desk: Desk) -> None:
    """Cleaned, measured again, asked again, everything ticked, signed: nothing is left."""
    clogged(desk, prices=PRICES)
    job = repair(desk, done="cleaned", by="Wen L.")
    assert (job["next"]["kind"], job["next"]["after"]) == ("pressure_drop", "s1")
    assert job["finishing"]["reason_for"].startswith("not measured again")
    assert [d["injectors"] for d in job["finishing"]["due"]] == [["4"]]
    job = after_sheet(desk)
    pair = next(p for p in job["finishing"]["pairs"] if p["row"] == "4")
    assert (pair["word"], pair["before_sheet"], pair["sheet"]) == ("put_right", "s1", "s2")
    assert pair["before_at"] < -10 < pair["after_at"] < 10
    assert job["next"]["asks"] is True
    job = put(desk, "answers/rough_idle", answer="gone", by="Wen L.")
    assert (job["next"], job["finishing"]["over"]) == (None, True)
    assert job["finishing"]["reason_for"].startswith("not ticked: new seals on 4")
    refused = desk.client.post("/api/jobs/900/closing", json={"by": "Ines K."})
    assert refused.status_code == 422
    assert refused.json()["problems"][0]["code"] == "reason_needed"
    for thing in job["finishing"]["things"]:
        put(desk, "things", what=thing["what"], state="done", by="Wen L.")
    job = put(desk, "things", what="filter", state="aside", reason="renewed in April")
    assert job["finishing"]["reason_for"] == ""
    signed = desk.client.post(
        "/api/jobs/900/closing", json={"by": "Ines K.", "hand": "M1 1 L20 30"}
    )
    assert signed.status_code == 200, signed.text
    view = signed.json()
    signature = view["finishing"]["signatures"][0]
    assert (view["closed"], signature["by"], signature["hand"]) == (True, "Ines K.", "M1 1 L20 30")
    assert signature["differs"] == ""
    assert "sound" in signature["says"]
    # Closed: nothing can be noted any more.
    late = desk.client.put(
        f"/api/jobs/900/repairs/{new_id()}", json={"injector": "4", "done": "wired"}
    )
    assert late.status_code == 409


def test_what_the_job_taught(desk: Desk) -> None:
    """One cleaned and cured: Beta(4, 2) for the next clogged one, and the cause is confirmed."""
    test_from_the_verdict_to_a_signed_job(desk)
    assert [f["fault"] for f in desk.client.get("/api/learning").json()["faults"]] == ["gives_less"]
    file = job_file(PAIRS)
    file["job"]["number"] = "901"
    desk.bring_in(file)
    clean = next(
        o for o in finishing(desk, "901")["options"] if o["option"] == "clean_then_replace"
    )
    assert clean["second_visit"] == pytest.approx(100 * (1 - 4 / 6), abs=0.05)
    assert "1 of your own" in clean["chance"]
    desk.client.put("/api/learning", json={"on": False})
    clean = next(
        o for o in finishing(desk, "901")["options"] if o["option"] == "clean_then_replace"
    )
    assert clean["second_visit"] == pytest.approx(40.0)


def test_the_whole_record_goes_out_and_comes_back(desk: Desk) -> None:
    """Exported after signing, brought in under another number: the same from the verdict on."""
    test_from_the_verdict_to_a_signed_job(desk)
    out = desk.client.get("/api/jobs/900/file").json()
    assert out["repairs"][0]["done"] == "cleaned"
    assert out["asked_after"] == {"rough_idle": "gone"}
    assert out["signed"][0]["result"]["over"] is True
    out["job"]["number"] = "902"
    assert desk.bring_in(out).status_code == 200
    before, now = finishing(desk, "900"), finishing(desk, "902")
    ids = {"id"}
    for name in (
        "options",
        "choices",
        "pairs",
        "things",
        "answers",
        "over",
        "signatures",
        "prices",
    ):
        assert now[name] == before[name], name
    assert [{k: v for k, v in r.items() if k not in ids} for r in now["repairs"]] == [
        {k: v for k, v in r.items() if k not in ids} for r in before["repairs"]
    ]
    again = desk.client.get("/api/jobs/902/file").json()
    assert {**again, "job": None} == {**out, "job": None}


def test_still_there_opens_the_diagnosis_again(desk: Desk) -> None:
    """The next step is what the engine still asks for; closing asks why."""
    clogged(desk)
    repair(desk, done="cleaned")
    after_sheet(desk)
    job = put(desk, "answers/rough_idle", answer="still_there")
    assert job["finishing"]["over"] is False
    assert job["next"] is not None
    assert not job["next"]["asks"]
    assert job["finishing"]["reason_for"].startswith("still there")
    assert put(desk, "answers/rough_idle", answer="")["next"]["asks"]


def test_measured_first_and_noted_afterwards_is_the_same(desk: Desk) -> None:
    """Who reads the after-sheet before noting the repair loses nothing of it."""
    clogged(desk)
    sheet = desk.client.post(
        "/api/jobs/900/sheets",
        json={"request_id": new_id(), "kind": "pressure_drop", "after": "s1"},
    ).json()
    desk.type(sheet, "4", "50 26.5")
    job = repair(desk, done="replaced", part={"make": "Brannock", "serial": "77"})
    assert [p["word"] for p in job["finishing"]["pairs"] if p["row"] == "4"] == ["put_right"]
    assert job["finishing"]["due"] == []
    assert job["finishing"]["repairs"][0]["words"] == "4 replaced: Brannock, serial 77"


def test_a_new_part_takes_over_no_reading_of_the_old_one(desk: Desk) -> None:
    """A neighbour's figures are carried over to the after-sheet, the replaced one's are not."""
    clogged(desk)
    repair(desk, done="replaced")
    job = after_sheet(desk, "50 26", "1")
    sheet = desk.client.get(f"/api/sheets/{_sheet_id(job, 's2')}").json()
    states = {r["injector"]: (r["state"], r["at"]) for r in sheet["rows"]}
    assert states["4"] == ("not_judged", None)
    assert "from s1" in sheet["carried"]
    assert "4" not in sheet["carried"].partition("from")[0]


def _sheet_id(job: dict[str, Any], key: str) -> int:
    return next(int(k["sheet_id"]) for k in job["route"] if k["key"] == key)


def test_a_repair_that_was_noted_by_mistake(desk: Desk, engine: Engine) -> None:
    """Taken back: the verdict stands as before; the row stays in the store; another job's is refused."""
    clogged(desk)
    before = desk.client.get("/api/jobs/900").json()
    job = repair(desk, done="replaced")
    kept = job["finishing"]["repairs"][0]["id"]
    assert job["next"]["after"] == "s1"
    other = desk.open_job()["job_number"]
    path = f"/repairs/{kept}"
    assert desk.client.delete(f"/api/jobs/{other}{path}").status_code == 404
    now = desk.client.delete(f"/api/jobs/900{path}").json()
    assert now["verdict"] == before["verdict"]
    assert now["next"] == before["next"]
    with transaction(engine) as connection:
        assert connection.scalar(text("SELECT COUNT(*) FROM repair WHERE live IS NULL")) == 1


@pytest.mark.parametrize(
    ("body", "where"),
    [
        ({"injector": "9", "done": "cleaned"}, "injector"),
        ({"done": "cleaned"}, ""),
        ({"injector": "4", "done": "swapped"}, ""),
        ({"injector": "4", "done": "swapped", "swapped_with": "4"}, ""),
        ({"injector": "4", "done": "cleaned", "part": {"make": "x"}}, ""),
        ({"done": "put_right", "cause": "gremlins"}, ""),
        ({"injector": "4", "done": "polished"}, "done"),
        ({"injector": "4", "done": "cleaned", "at": "yesterday"}, "at"),
    ],
)
def test_repairs_that_do_not_fit_are_refused(desk: Desk, body: dict[str, Any], where: str) -> None:
    """With the place and the rule; nothing is kept."""
    clogged(desk)
    answer = desk.client.put(f"/api/jobs/900/repairs/{new_id()}", json=body)
    assert answer.status_code == 422, answer.text
    assert answer.json()["problems"][0]["path"].endswith(where)
    assert finishing(desk)["repairs"] == []


def test_a_swap_is_noted_and_judged(desk: Desk) -> None:
    """4, which gave less, changes places with 2; now 2 gives less."""
    clogged(desk)
    job = repair(desk, done="swapped", swapped_with="2")
    assert job["finishing"]["due"][0]["injectors"] == ["2", "4"]
    step = job["next"]
    sheet = desk.client.post(
        "/api/jobs/900/sheets",
        json={"request_id": new_id(), "kind": step["kind"], "after": step["after"]},
    ).json()
    for label, figures in (("1", "50 26"), ("2", "50 31.5"), ("3", "50 26"), ("4", "50 26.5")):
        desk.type(sheet, label, figures)
    said = finishing(desk)["swaps"]
    assert said == [
        "4 and 2 changed places: the fault went with the part; the injector that was on 4 is at fault"
    ]


def test_what_was_put_right_on_the_engine(desk: Desk) -> None:
    """A cause of the engine is noted without an injector."""
    clogged(desk)
    codes = [e["code"] for e in finishing(desk)["engine"]]
    job = put(desk, f"repairs/{new_id()}", done="put_right", cause=codes[0])
    assert job["finishing"]["repairs"][0]["injector"] == ""


def test_an_opened_job_keeps_its_signature_and_a_newer_plumb_says_what_differs(
    desk: Desk, engine: Engine
) -> None:
    """What was decided is kept as it was; what would be decided otherwise today is said."""
    clogged(desk)
    assert desk.close("900", "the owner takes it as it is").status_code == 200
    with transaction(engine) as connection:
        row = connection.execute(text("SELECT id, result FROM signature")).one()
        decided = json.loads(row.result)
        decided["verdicts"][3] |= {"condition": "sound", "action": "keep"}
        connection.execute(
            text("UPDATE signature SET result = :r WHERE id = :i"),
            {"r": json.dumps(decided), "i": row.id},
        )
    kept = finishing(desk)["signatures"][0]
    assert kept["differs"].startswith("4: sound, keep then, gives less")
    assert kept["reason"] == "the owner takes it as it is"
    opened = desk.client.patch("/api/jobs/900", json={"closed": False}).json()
    assert (opened["closed"], len(opened["finishing"]["signatures"])) == (False, 1)
    assert desk.client.patch("/api/jobs/900", json={"closed": True}).status_code == 422


def test_prices_of_a_closed_job_stay_what_they_were(desk: Desk) -> None:
    """The shelf is dearer a year later; the job's figures are those of its day."""
    clogged(desk)
    body = {
        "what": "price",
        "name": "every vehicle",
        "values": {k: str(v) for k, v in PRICES.items()},
    }
    entry = desk.client.post("/api/shelf", json=body).json()["id"]
    desk.close("900")
    body["values"] = {**body["values"], "part": "900"}  # type: ignore[dict-item]
    desk.client.put(f"/api/shelf/{entry}", json=body)
    costs = {o["option"]: o["cost"] for o in finishing(desk)["options"]}
    assert costs["replace_flagged"] == 225.0


def test_the_prices_of_a_fitted_parts_number_are_kept_with_the_job(desk: Desk) -> None:
    """What the screen charges is what is frozen, also where the shelf has the part by its number."""
    clogged(desk)
    for name, part in (("every vehicle", "120"), ("BN-400", "310")):
        values = {k: str(v) for k, v in PRICES.items()} | {"part": part}
        body = {"what": "price", "name": name, "values": values}
        assert desk.client.post("/api/shelf", json=body).status_code == 201
    repair(desk, done="replaced", part={"make": "Brannock", "number": "BN-400"})
    shown = {o["option"]: o["cost"] for o in finishing(desk)["options"]}
    assert shown["replace_flagged"] == 90 * (60 + 10) / 60 + 310
    desk.close("900")
    assert {o["option"]: o["cost"] for o in finishing(desk)["options"]} == shown


def test_two_at_once_note_one_repair(desk: Desk, engine: Engine) -> None:
    """The same id sent twice is one repair."""
    clogged(desk)
    same = new_id()
    for _ in range(2):
        service.repair(engine, "900", same, {"injector": "4", "done": "cleaned"}, Thresholds())
    assert len(finishing(desk)["repairs"]) == 1
