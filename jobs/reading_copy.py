"""The reading copy of a job: every page as it was met, all its sentences in order, what was entered between them.

A page that is met again shows the lines that were not on it the last time; how many stand as before is said.
"""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from playwright.sync_api import Page
from tests.browser.reading import settled

from .script import Forbidden

PAGE_TEXT = (Path(__file__).parent / "page_text.js").read_text(encoding="utf-8")
_ADDRESS = re.compile(r"https?://[^/]+(/[^?#]*)(?:\?([^#]*))?")


@dataclass
class ReadingCopy:
    """What is written of a job while it is played; `never` is looked for on each page, `states` say what holds now."""

    never: list[Forbidden]
    states: set[str] = field(default_factory=set)
    lines: list[str] = field(default_factory=list)
    pages: list[str] = field(default_factory=list)
    said_never: Counter[str] = field(default_factory=Counter)
    _head: list[str] = field(default_factory=list)
    _last: dict[str, list[str]] = field(default_factory=dict)

    def title(self, text: str) -> None:
        """A heading of the copy: the job, a visit."""
        self.lines += ["", f"# {text}", ""]

    def entered(self, text: str) -> None:
        """What the technician's hand did."""
        self.lines.append(f"    > {text}")

    def meet(self, page: Page) -> list[str]:
        """The page as it stands now; its lines."""
        head = text_of(page, "header.top")
        found = text_of(page)[len(head) :]
        where = place_of(page.url)
        before = self._last.get(where, [])
        left = Counter(before)
        new = []
        for line in found:
            if left[line]:
                left[line] -= 1
            else:
                new.append(line)
        self._last[where] = found
        if head != self._head:
            new = [f"= {' | '.join(head)}", *new]
            self._head = head
        if new:
            as_before = f"  ({len(found) - len(new)} lines as before)" if before else ""
            self.lines += ["", f"## {where}{as_before}", "", *new, ""]
        text = "\n".join([*head, *found])
        if new:
            self.pages.append(text)
            self.look_for("pages", "\n".join(new) if before else text, where)
        return list(found)

    def look_for(self, on: str, text: str, where: str) -> None:
        """Note each sentence that may never stand there, once for each place."""
        for row in self.never:
            if row.on not in (on, "both") or (row.when and row.when not in self.states):
                continue
            for match in re.finditer(row.says, text):
                line = text[text.rfind("\n", 0, match.start()) + 1 :].partition("\n")[0]
                self.said_never[f"{where}: {line.strip()[:160]!r}: {row.reason}"] += 1

    def write(self, path: Path) -> None:
        """The copy as a file."""
        path.write_text("\n".join(self.lines).strip() + "\n", encoding="utf-8")


def text_of(page: Page, selector: str = "#page") -> list[str]:
    """The lines of a page, or of a part of it, as they can be seen."""
    settled(page)
    found: list[str] = page.evaluate(PAGE_TEXT, selector)
    return found


def place_of(url: str) -> str:
    """A page's address without the numbers that only the machine needs: the station, the view of it."""
    match = _ADDRESS.match(url)
    path, query = (match[1], match[2] or "") if match else (url, "")
    kept = [part for part in query.split("&") if re.match(r"(view|for|school|part|answer|check)=", part)]
    path = re.sub(r"^/calls/\d+", "/call", path)
    return path + ("?" + "&".join(kept) if kept else "")
