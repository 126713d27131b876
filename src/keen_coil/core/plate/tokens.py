"""A line of a plate as tokens: phrases, words and figures, each with the place it came from."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass, field, replace
from typing import NamedTuple

from .spoken import BETWEEN, with_figures
from .words import BLANK, Word, phrases, segmented

_SIGNS = {"\u03bc": "U", "∅": "Ø", "⌀": "Ø", "\u2010": "-", "\u2013": "-", "\u2014": "-", "\u2212": "-", "\u2044": "/"}
_SIGNS |= {"°": " ", "º": " ", "“": '"', "”": '"'}
_NUMBER = r"(?:[OQIL|](?=[\d./])|\d|\.\d|(?<=\d)[OQIL|SB](?=[\d./])|(?<=[\dO])[OQ](?![A-Z]))+"
_CHAIN = re.compile(
    rf"\d{{1,2}}[ \-]\d/\d{{1,2}}(?![\d/])|(?=[^A-Z]|[A-Z][\d./O]){_NUMBER}(?:\s*[-/+&]\s*{_NUMBER})*", re.ASCII
)
_WORDS = re.compile(r"(?:[A-ZØ%±](?:[A-ZØ']|\.(?!\d)|,(?=[A-Z]))*|(?<=[A-Z])[0158](?=[A-Z]))+")
LONGEST_FIGURE, MOST_OF_A_CHAIN = 9, 8
_CODE = rf"{BLANK}#?{BLANK}([A-Z0-9](?:[A-Z0-9]|[\-/.](?=[A-Z0-9]))*)"
CODES: tuple[tuple[str, re.Pattern[str]], ...] = (
    (
        "part_no",
        re.compile(
            r"(?<![A-Z])(?:MODEL(?:\s*NO)?|MOD(?:\s*NO)?|PART(?:\s*(?:NUMBER|NO))?|P/N|PN|CAT(?:ALOG)?(?:\s*NO)?|M/N)"
            + _CODE
        ),
    ),
    ("serial", re.compile(r"(?<![A-Z])(?:SERIAL(?:\s*(?:NUMBER|NO))?|SER(?:\s*NO)?|S/N|SN)" + _CODE)),
    (
        "frame",
        re.compile(
            rf"(?<![A-Z])(?:FRAME|FRM|FR){BLANK}([0-9]{{2,3}}[A-Z]{{0,2}})(?![A-Z0-9])|"
            r"(?<![0-9A-Z./])([0-9]{2,3}[A-Z]{0,2})[\s\-]*FRAME|"
            r"(?<![0-9A-Z./\-])((?:42|48|56|143|145|182|184)(?:YZ|CZ|HZ(?=C)|[YZCJHT]))(?![A-Z0-9])"
        ),
    ),
)
"""What a code's word is followed by is the code itself, whatever it looks like."""


class Said(NamedTuple):
    """A phrase or code: field, value as text, where it stands, whether it is only likely."""

    field: str
    value: str
    start: int
    end: int
    weak: bool


@dataclass(frozen=True)
class Token:
    """A word (`word` set, None when unknown) or a chain of figures (`numbers` set; `in_f` degrees F) of a line."""

    text: str
    start: int
    end: int
    word: Word | None = None
    numbers: tuple[float, ...] = ()
    marks: str = ""
    repaired: bool = False
    in_f: bool = False

    @property
    def is_figure(self) -> bool:
        """Whether it is a chain of figures."""
        return bool(self.numbers)


@dataclass
class Line:
    """A line as it was read: what it says by phrases and codes, and its other tokens, in its own places."""

    text: str
    said: list[Said] = field(default_factory=list)
    tokens: list[Token] = field(default_factory=list)
    places: list[tuple[int, int]] = field(default_factory=list)

    def place(self, start: int, end: int) -> tuple[int, int]:
        """Start and end in the text as it was given."""
        if not self.places:
            return 0, 0
        last = len(self.places) - 1
        return self.places[min(start, last)][0], self.places[min(end - 1, last)][1]


def line_of(text: str) -> Line:
    """A line of a plate, or of what somebody said or typed, as tokens."""
    capitals, places = _plain(_with_points(text))
    spoken, from_ = with_figures(capitals)
    line = Line(text, places=[(places[a], places[b - 1] + 1) for a, b in from_])
    rest = _without_codes(spoken, line)
    rest = _without_phrases(rest, line)
    line.tokens = _tokens(rest)
    return line


def _with_points(text: str) -> str:
    """Text of the same length: 1,075 without its comma, 0,25 hp with a point."""
    text = re.sub(r"(?<![\d.,])(\d),(\d{3})(?![\d,])", "\\1\x01\\2", text)
    return re.sub(r"(?<![\d.,])(\d{1,2}),(\d{1,2})(?![\d.,])", r"\1.\2", text)


def _plain(text: str) -> tuple[str, list[int]]:
    """Capitals with the signs of a keyboard, and for each the place it came from."""
    out: list[str] = []
    places: list[int] = []
    for at, sign in enumerate(text):
        parts = "" if sign == "\x01" else unicodedata.normalize("NFKC", sign)
        new = "".join(_SIGNS.get(part, part.upper()) for part in parts)
        if "/" in new and len(new) > 1 and at and text[at - 1].isdigit():
            new = " " + new  # 7 and a half in one sign
        out.append(new)
        places += [at] * len(new)
    return "".join(out), places


def _without_codes(text: str, line: Line) -> str:
    for name, pattern in CODES:
        for found in pattern.finditer(text):
            group = next(at for at in range(1, (found.lastindex or 1) + 1) if found[at])
            code = found[group]
            if not any(sign.isdigit() for sign in code) or (name != "frame" and len(code) < 3):
                continue
            line.said.append(Said(name, code, found.start(group), found.end(group), False))
            text = text[: found.start()] + "\x00" * (found.end() - found.start()) + text[found.end() :]
    return text


def _without_phrases(text: str, line: Line) -> str:
    for phrase, pattern in phrases():
        for found in pattern.finditer(text):
            letter = next((part for part in found.groups() if part and len(part) == 1), "")
            value = {"letter": letter.replace("8", "B")}.get(phrase.value, phrase.value)
            weak = phrase.weak or (phrase.value == "letter" and letter == "8")
            if phrase.field:
                line.said.append(Said(phrase.field, value, found.start(), found.end(), weak))
            text = text[: found.start()] + "\x00" * (found.end() - found.start()) + text[found.end() :]
    return text


def _tokens(text: str) -> list[Token]:
    tokens: list[Token] = []
    at = 0
    while at < len(text):
        word, chain = _WORDS.match(text, at), _CHAIN.match(text, at)
        if chain and at and text[at] == "." and text[at - 1].isalpha() and len(chain[0]) > 3:
            at += 1  # the point of MFD. and not of .440
            continue
        if chain and not (word and word.end() > chain.end()):
            tokens.append(_figure(chain[0], at))
            at = chain.end()
        elif word:
            at = _add_words(text, at, tokens)
        else:
            at += 1
    return _joined(tokens, text)


def _add_words(text: str, at: int, tokens: list[Token]) -> int:
    """The words from here, over single blanks, so that a word may be found that a blank or a point parts."""
    letters, places, blanks, end = "", [], [], at
    while end < len(text):
        found = _WORDS.match(text, end)
        chain = _CHAIN.match(text, end)
        if not found or (chain and chain.end() >= found.end()):
            break
        for offset, sign in enumerate(found[0]):
            if sign not in ".,'":
                letters += sign
                places.append(end + offset)
        end = found.end()
        blank = re.match(r"[ .'\-]{1,2}(?=[A-ZØ])", text[end:])
        if not blank:
            break
        end += blank.end()
        blanks += [len(letters)] if " " in blank[0] else []
    for start, stop, word, wrong in segmented(letters, blanks):
        first, last = places[start], places[stop - 1] + 1
        tokens.append(Token(text[first:last], first, last, word=word, repaired=wrong))
    return end


def _figure(text: str, start: int) -> Token:
    """A chain of figures: its numbers, the marks between them, whether letters were taken for digits."""
    plain = re.sub(r"(?<=\d)[OQ](?=\d|$|[\-/.])|^[OQ](?=\d|\.)|(?<=[\-/.])[OQ](?=\d)", "0", text)
    plain = re.sub(r"[IL|](?=[\d./])|(?<=[\d.])[IL|]", "1", plain)
    plain = re.sub(r"(?<=\d)S(?=[\d.])", "5", plain)
    plain = re.sub(r"(?<=\d)B(?=[\d.])", "8", plain)
    parts = re.findall(r"[0-9]*\.?[0-9]+", plain)
    if not parts or len(parts) > MOST_OF_A_CHAIN or max(map(len, parts)) > LONGEST_FIGURE:
        return Token(text, start, start + len(text))  # a telephone number, a row of ones: no figure of a plate
    numbers = tuple(float(part) for part in parts)
    marks = "".join(_marks(plain))
    return Token(plain, start, start + len(text), numbers=numbers, marks=marks, repaired=plain != text)


def _marks(text: str) -> list[str]:
    return [(mark.strip() or " ").replace("&", "+") for mark in re.findall(r"\s*[\-/+&]\s*|(?<=\d) (?=\d)", text)]


def _joined(tokens: list[Token], text: str) -> list[Token]:
    """Figures with a spoken mark between them as one chain: 208 TO 230, 40 PLUS 5; and 208 230, 7 1/2."""
    out: list[Token] = []
    at = 0
    while at < len(tokens):
        token = tokens[at]
        if out and token.is_figure:
            last = out[-1]
            between = text[last.end : token.start].strip(" .,")
            mark = BETWEEN.get(between, "")
            if last.is_figure and not between and text[last.end : token.start]:
                mark = _unsaid(last, token)
            if last.is_figure and mark:
                out[-1] = _chained(last, token, mark)
                at += 1
                continue
        if token.text in BETWEEN and out and out[-1].is_figure and at + 1 < len(tokens) and tokens[at + 1].is_figure:
            out[-1] = _chained(out[-1], tokens[at + 1], BETWEEN[token.text])
            at += 2
            continue
        if token.word is not None and token.word.key == "fahrenheit" and out and out[-1].is_figure:
            out[-1] = replace(out[-1], in_f=True)
        out.append(token)
        at += 1
    return out


def _unsaid(first: Token, second: Token) -> str:
    """The mark that a blank stands for: a span of volts, a mixed number; none otherwise."""
    if len(first.numbers) != 1:
        return ""
    a, b = first.numbers[0], second.numbers[0]
    if (a, b) in ((208, 230), (200, 230), (208, 240), (220, 240)):
        return "-"
    fraction = second.marks == "/" and len(second.numbers) == 2 and second.numbers[0] < second.numbers[1] <= 64
    return " " if fraction and a == int(a) and a <= 20 else ""


def _chained(first: Token, second: Token, mark: str) -> Token:
    return Token(
        first.text + mark + second.text,
        first.start,
        second.end,
        numbers=first.numbers + second.numbers,
        marks=first.marks + mark + second.marks,
        repaired=first.repaired or second.repaired,
    )
