"""What helps on a page: how each station works, the glossary, and its terms as links within a text."""

from __future__ import annotations

import re
from typing import NamedTuple

from markupsafe import Markup, escape

from ..core.tables import records, table


class StationHelp(NamedTuple):
    """How a station works: a few lines, and what its drawing shows."""

    lines: tuple[str, ...]
    drawing: str


class Term(NamedTuple):
    """A word of the trade: its name where that is not its key, other spellings, what it means."""

    says: str
    name: str = ""
    also: tuple[str, ...] = ()


STATION_HELP: dict[str, StationHelp] = records(StationHelp, table(__package__, "station_help"), "station_help")
GLOSSARY: dict[str, Term] = records(Term, table(__package__, "glossary"), "glossary")
NAMES: dict[str, str] = {key: term.name or key for key, term in GLOSSARY.items()}
_SPELLINGS = {word.lower(): key for key, term in GLOSSARY.items() for word in (NAMES[key], *term.also)}
_TERM = re.compile(rf"\b({'|'.join(sorted(map(re.escape, _SPELLINGS), key=len, reverse=True))})\b", re.IGNORECASE)


def with_terms(text: str) -> Markup:
    """A text whose words of the glossary lead to it, each once."""
    seen: set[str] = set()

    def link(found: re.Match[str]) -> str:
        key = _SPELLINGS[found[1].lower()]
        if key in seen:
            return found[1]
        seen.add(key)
        return f'<a class="term" href="/glossary#{key}">{found[1]}</a>'

    return Markup(_TERM.sub(link, str(escape(text))))  # noqa: S704 the text is escaped before it is linked
