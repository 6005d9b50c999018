"""A technician's verbs at the screen, for whole jobs: bring a vehicle in, go to a sheet, type, note, repair, read."""

import re
from pathlib import Path

from playwright.sync_api import Locator, expect
from tests.drivers import ASK, Bench


class Technician(Bench):
    """Works one whole job from its complaint on."""

    number = ""

    @property
    def main(self) -> Locator:
        """What stands in the middle."""
        return self.page.get_by_role("main")

    @property
    def dialog(self) -> Locator:
        """What is asked over the screen."""
        return self.page.get_by_role("dialog")

    def brings_in(
        self, vehicle: str, fuel: str, cylinders: int, *complaint: str, each: str = ""
    ) -> "Technician":
        """A new job with its walk-round, and the complaint as it is told."""
        self.turn_to("/")
        expect(self.page.get_by_role("heading", name="Today")).to_be_visible()
        self.press("n")
        expect(self.dialog).to_be_visible()
        self.type(vehicle)
        asked = ("Fuel system", fuel), ("Cylinders", str(cylinders)), ("Begin with", "walk-round")
        for legend, choice in (*asked, *([("Injectors", each)] if each else [])):
            group = self.dialog.locator(f'legend:text-is("{legend}") + div')
            group.get_by_text(choice, exact=legend != "Begin with").click()
        self.dialog.get_by_role("button", name="Go").click()
        expect(self.main.get_by_role("heading", name="Walk-round")).to_be_visible()
        found = re.search(r"/jobs/(\d+)", self.page.url)
        assert found is not None
        self.number = found[1]
        return self.notes(*complaint)

    def notes(self, *words: str) -> "Technician":
        """Words of a form, pressed one after the other."""
        for word in words:
            button = self.main.get_by_role("button", name=re.compile(f"^(✓ )?{word}$"))
            button.click()
            expect(button).to_have_attribute("aria-pressed", "true")
        return self

    def has_codes(self, codes: str) -> "Technician":
        """Fault codes as the controller gives them."""
        self.page.get_by_role("button", name="Complaint and codes").click()
        self.dialog.get_by_label(re.compile("^Codes")).fill(codes)
        self.dialog.get_by_role("button", name="Keep").click()
        expect(self.dialog).to_be_hidden()
        return self

    def goes_to(self, title: str) -> "Technician":
        """A sheet by the route."""
        route = self.page.get_by_label("Route", exact=True)
        name = re.compile(f"^{title}")
        route.get_by_role("link", name=name).or_(
            route.get_by_role("button", name=name)
        ).first.click()
        expect(self.page.get_by_role("heading", level=1, name=name)).to_be_visible()
        return self

    def types(self, *figures: str) -> "Technician":
        """Each with Enter; no question stands afterwards, and all of it is kept."""
        for figure in figures:
            self.type(figure).press("Enter")
        expect(self.asked()).to_have_count(0)
        self.saved()
        return self

    def sets(self, knob: str, **fields: str) -> "Technician":
        """A knob's fields, each by the beginning of its label."""
        self.page.get_by_role("button", name=re.compile(f"^{knob}")).first.click()
        for label, text in fields.items():
            field = self.dialog.get_by_label(re.compile(f"^{label.replace('_', ' ')}")).first
            if field.evaluate("e => e.tagName") == "SELECT":
                field.select_option(text)
            else:
                field.fill(text)
        self.press("Enter")
        expect(self.dialog).to_be_hidden()
        return self

    def brings_trace(self, file: Path) -> "Technician":
        """A recording, its columns taken as they were guessed."""
        self.page.get_by_role("button", name="Bring in a trace").click()
        self.dialog.locator("input[type=file]").first.set_input_files(file)
        self.dialog.get_by_role("button", name="Take it in").click()
        expect(self.dialog).to_be_hidden()
        return self

    def at_the_verdict(self, *texts: str) -> "Technician":
        """The verdict says each of these."""
        self.turn_to(f"/jobs/{self.number}/verdict")
        for text in texts:
            expect(self.main).to_contain_text(text)
        return self

    def repairs(self, done: str, *labels: str, engine: str = "") -> "Technician":
        """What was done to whom, or to the engine."""
        self.turn_to(f"/jobs/{self.number}/repair")
        form = self.page.get_by_role("form", name="Note a repair")
        expect(form).to_be_visible()
        noted = self.main.get_by_role("button", name="Take back")
        before = noted.count()
        for label in labels:
            form.get_by_role("button", name=label, exact=True).click()
        form.get_by_role("button", name=done, exact=True).click()
        if engine:
            form.locator("select").select_option(label=engine)
        form.get_by_role("button", name="Keep").click()
        expect(noted).to_have_count(before + max(1, len(labels)))
        expect(self.page.get_by_role("status").first).to_contain_text(
            re.compile("^(All saved|Saved)")
        )
        return self

    def today_waits_for(self, text: str) -> "Technician":
        """What Today says is next, and the job's panel says the same."""
        jobs = ASK.get(f"{self.address}/api/jobs").json()
        (mine,) = [j for j in jobs if j["number"] == self.number]
        assert text in mine["next_title"], mine["next_title"]
        return self

    def on_paper(self, *texts: str, never: str = "") -> "Technician":
        """The report's page says each of these, and nothing of what it must not."""
        html = ASK.get(f"{self.address}/api/jobs/{self.number}/report.html").text
        paper = " ".join(re.sub(r"<[^>]+>", " ", html).split())
        for text in texts:
            assert text in paper, text
        assert not never or never not in paper, never
        return self
