"""Figures and the words beside them: each figure takes the meaning that fits its words best, each word serves once."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from .figures import ODD, USUAL, Meaning, meanings, usual_values
from .tokens import Token

BESIDE, OTHER = 3.0, 3.1
GLUED, FILLER_BETWEEN, NEW_LINE = 0.4, 0.15, 1.2
BETWEEN_COST = {"unknown": 1.6, "label": 0.9, "other": 0.9}
"""What a word between a figure and its own word takes away, by the word's kind."""
FAR_PER_SIGN, MOST_FAR = 0.05, 1.2
"""What a gap of so many signs between a figure and its word takes away."""
ALONE = {"volts": 1.3, "hp": 0.7, "rpm": 0.6, "capacitor_v": 0.2, "dual_uf": 0.1}
AFTER_MICROFARADS, ALSO_LINE_VOLTS = 1.6, (250, 400)
UNIT_ALONE = ("celsius", "fahrenheit")


@dataclass(frozen=True)
class Taken:
    """A figure with what it was taken for; `label` its word, None when it stands alone; `score` how well it fits."""

    token: Token
    meaning: Meaning
    label: Token | None
    score: float
    rival: float
    row: str = ""


@dataclass(frozen=True)
class _Option:
    meaning: Meaning | None
    label: int | None
    behind: bool
    score: float


def assign(tokens: Sequence[Token], breaks: Sequence[int] = ()) -> tuple[list[Taken], list[Token]]:
    """The figures of a line with their meanings, and the tokens that nothing was made of.

    Args: tokens in their order; breaks, the places in the text where a new line begins.
    """
    figures = [at for at, token in enumerate(tokens) if token.is_figure]
    options = [list(_options(tokens, at, figures, order, breaks)) for order, at in enumerate(figures)]
    paths: list[tuple[float, list[_Option]]] = [(0.0, [])]
    for of_one in options:
        paths = _extended(paths, of_one)
    best = max(paths, key=lambda path: path[0])[1] if figures else []
    taken, left = [], []
    used = {option.label for option in best if option.label is not None}
    for at, option, of_one in zip(figures, best, options, strict=True):
        if option.meaning is None:
            left.append(tokens[at])
            continue
        rivals = [
            o.score
            for o in of_one
            if o.meaning and o.meaning.field != option.meaning.field and (o.label is None or o.label not in used)
        ]
        label = tokens[option.label] if option.label is not None else None
        row = _row(tokens, at, breaks)
        taken.append(Taken(tokens[at], option.meaning, label, option.score, max(rivals, default=0.0), row))
    return taken, left + [token for token in tokens if not token.is_figure and token.word is None]


def _extended(paths: list[tuple[float, list[_Option]]], options: list[_Option]) -> list[tuple[float, list[_Option]]]:
    """The best way to each option; a word that the figure before took behind it is no longer there."""
    found = []
    for option in options:
        ways = []
        for score, path in paths:
            last = path[-1] if path else None
            if (
                last
                and last.behind
                and option.label is not None
                and not option.behind
                and option.label <= (last.label or 0)
            ):
                continue
            bonus = 0.0
            of_capacitor = (
                last is not None and last.meaning is not None and last.meaning.field in ("capacitor_uf", "dual_uf")
            )
            if option.meaning and option.meaning.field == "capacitor_v":
                if option.label is None and not of_capacitor:
                    continue
                telling = option.label is not None and option.meaning.value not in ALSO_LINE_VOLTS
                bonus = AFTER_MICROFARADS if of_capacitor and not telling else 0.0
            ways.append((score + option.score + bonus, [*path, option]))
        if ways:
            found.append(max(ways, key=lambda way: way[0]))
    return found


def _options(
    tokens: Sequence[Token], at: int, figures: Sequence[int], order: int, breaks: Sequence[int]
) -> Iterator[_Option]:
    """All that a figure may be: nothing, something by itself, something by a word before or behind it."""
    yield _Option(None, None, False, 0.0)
    known = meanings(tokens[at])
    for meaning in known:
        alone = ALONE.get(meaning.field)
        if alone is not None and meaning.usual == USUAL and _is_telling(tokens[at], meaning):
            yield _Option(meaning, None, False, alone)
    before = range(at - 1, figures[order - 1] if order else -1, -1)
    behind = range(at + 1, figures[order + 1] if order + 1 < len(figures) else len(tokens))
    yield from _by_words(tokens, at, known, before, breaks, is_behind=False)
    yield from _by_words(tokens, at, known, behind, breaks, is_behind=True)


def _by_words(
    tokens: Sequence[Token],
    at: int,
    known: Sequence[Meaning],
    places: Sequence[int],
    breaks: Sequence[int],
    is_behind: bool,
) -> Iterator[_Option]:
    """What a figure may be by the words on one side of it; the nearer, the better."""
    off = 0.0
    for place in places:
        token = tokens[place]
        first, last = min(token.start, tokens[at].start), max(token.start, tokens[at].start)
        off += NEW_LINE * sum(first < b <= last for b in breaks)
        kind = "unknown" if token.word is None else token.word.kind
        if kind == "row":
            return
        if kind == "label":
            yield from _by_label(tokens, at, known, place, off, is_behind)
        elif kind == "other":
            yield _Option(Meaning("other", None, USUAL), place, is_behind, OTHER - off)
        off += BETWEEN_COST.get(kind, FILLER_BETWEEN)


def _by_label(
    tokens: Sequence[Token], at: int, known: Sequence[Meaning], place: int, off: float, is_behind: bool
) -> Iterator[_Option]:
    word = tokens[place].word
    if word is None or word.label.side == ("before" if is_behind else "behind"):
        return
    gap = tokens[place].start - tokens[at].end if is_behind else tokens[at].start - tokens[place].end
    near = GLUED if gap <= 0 and is_behind else -min(FAR_PER_SIGN * max(gap - 2, 0), MOST_FAR)
    near -= 1.0 if word.key in UNIT_ALONE else 0.0
    for meaning in known:
        name = "capacitor_uf" if meaning.field == "dual_uf" else meaning.field
        if name in word.label.fields:
            yield _Option(meaning, place, is_behind, BESIDE - off + near + _usual(meaning))


def _usual(meaning: Meaning) -> float:
    if meaning.field == "volts" and meaning.value in {
        f"{v:g}" for v in usual_values("capacitor_v") if v not in ALSO_LINE_VOLTS
    }:
        return 2 * ODD
    return meaning.usual


def _is_telling(token: Token, meaning: Meaning) -> bool:
    """Whether a figure without a word says enough: volts with a span, a fraction of a horse, a speed."""
    if meaning.field == "volts":
        return bool(token.marks) or meaning.value in ("115", "230", "460", "277", "208")
    if meaning.field == "hp":
        return token.marks == "/"
    return meaning.field != "rpm" or "." not in token.text


def _row(tokens: Sequence[Token], at: int, breaks: Sequence[int]) -> str:
    """Whose figures these are: the last word of a row before them on their line."""
    line = max((b for b in breaks if b <= tokens[at].start), default=0)
    for token in reversed(tokens[:at]):
        if token.start < line:
            break
        if token.word and token.word.kind == "row":
            return token.word.key
    return ""
