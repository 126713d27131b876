"""The thumb: taps, fields and choices on what can be seen, each counted and written into the reading copy."""

from __future__ import annotations

from dataclasses import dataclass

from playwright.sync_api import Locator, Page
from tests.browser.reading import settled

from .reading_copy import ReadingCopy


class NoPlace(Exception):
    """An act that the pages have no place for, or a value that they refuse; the page's own words are in it."""


@dataclass
class Thumb:
    """A page with a count of what was done on it."""

    page: Page
    copy: ReadingCopy
    acts: int = 0

    def see(self, locator: Locator) -> Locator | None:
        """The first of these that can be seen; None where there is none."""
        settled(self.page)
        return next((one for one in locator.all() if one.is_visible()), None)

    def must_see(self, locator: Locator, what: str) -> Locator:
        """The first of these that can be seen. Raises `NoPlace`."""
        found = self.see(locator)
        if found is None:
            raise NoPlace(f"nothing on {self.heading()!r} for {what}{self._told()}")
        return found

    def heading(self) -> str:
        """What page this is."""
        settled(self.page)
        head = self.page.locator("h1")
        return " ".join(head.first.inner_text().split()) if head.count() else self.page.url

    def tap(self, locator: Locator, what: str, looks: bool = True) -> None:
        """Tap what can be seen; `looks`: the page that comes of it is read."""
        found = self.must_see(locator, what)
        self.acts += 1
        self.copy.entered(f"taps {what}")
        found.click()
        if looks:
            self.copy.meet(self.page)

    def fill(self, locator: Locator, value: str, what: str) -> None:
        """Type into a field, unless that stands in it already."""
        found = self.must_see(locator, what)
        if found.input_value() == value:
            return
        self.acts += 1
        self.copy.entered(f"enters {what}: {value}")
        found.fill(value)

    def choose(self, locator: Locator, value: str, what: str) -> None:
        """Choose an entry of a list by its value or its words, unless it is chosen already."""
        found = self.must_see(locator, what)
        words = {
            one.get_attribute("value") or "": " ".join(one.inner_text().split())
            for one in found.locator("option").all()
        }
        key = (
            value
            if value in words
            else next((key for key, says in words.items() if says.lower() == value.lower()), None)
        )
        if key is None:
            raise NoPlace(
                f"{what} on {self.heading()!r} offers {', '.join(says for says in words.values())}; not {value!r}"
            )
        if found.input_value() == key:
            return
        self.acts += 1
        self.copy.entered(f"chooses {what}: {words[key]}")
        found.select_option(key)

    def pick(self, name: str, value: str, what: str, within: Locator | None = None) -> bool:
        """Tap the chip of a radio field by its value, unless it is on; whether the page has it."""
        inside = within if within is not None else self.page.locator("main, aside, .below")
        chips = inside.locator(f'label:has(input[type=radio][name="{name}"][value="{value}"])')
        found = self.see(chips)
        if found is None:
            return False
        if not found.locator("input").is_checked():
            self.acts += 1
            self.copy.entered(f"taps {what}: {' '.join(found.inner_text().split())}")
            found.click()
        return True

    def tick(self, locator: Locator, what: str, on: bool = True) -> None:
        """Tick a box, or take its tick away."""
        found = self.must_see(locator, what)
        box = (
            found if found.evaluate("one => one.localName === 'input'") else found.locator("input[type=checkbox]").first
        )
        if box.is_checked() != on:
            self.acts += 1
            self.copy.entered(f"{'checks' if on else 'unchecks'} {what}")
            box.set_checked(on)

    def unfold(self, details: Locator, what: str) -> None:
        """Open what is folded."""
        settled(self.page)
        for one in details.all():
            if one.get_attribute("open") is None and one.locator("> summary").is_visible():
                self.tap(one.locator("> summary"), what)
                return
            if one.is_visible():
                return
        raise NoPlace(f"nothing on {self.heading()!r} for {what}")

    def refused(self, within: str = "main, aside, .below") -> str:
        """What the page says against what was just entered; "" where it took it."""
        settled(self.page)
        says = [
            " ".join(one.inner_text().split())
            for one in self.page.locator(f":is({within}) .fault").all()
            if one.is_visible()
        ]
        says += [
            " ".join(one.inner_text().split()) for one in self.page.locator("#told").all() if one.inner_text().strip()
        ]
        return "; ".join(dict.fromkeys(text for text in says if text))

    def _told(self) -> str:
        says = self.refused()
        return f" (the page says: {says})" if says else ""
