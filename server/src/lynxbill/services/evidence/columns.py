"""Two columns as they were typed or pasted, read and laid beside each other."""

import re
from collections.abc import Iterator

from lynxbill.core.reading.columns import Columns, lay_beside
from lynxbill.core.record.run import Reading
from lynxbill.core.terms.errors import BadValue, Refusal, Several
from lynxbill.core.terms.measure import Measure, check_reading
from lynxbill.core.terms.quantity import unit_of
from lynxbill.exchange.entry import DecimalMark, parse_entry

MOST_FIGURES = 10_000
_PIECES = re.compile(r"[\n\r\t;]+")


def compare_columns(measure: Measure, before: str, after: str, mark: DecimalMark) -> Columns:
    """Read both columns, one figure a line, and say how they differ; every figure that can't be read is named."""
    refusals: list[Refusal] = []
    sides = [
        list(_read(text, name, measure, mark, refusals)) for name, text in (("before", before), ("after", after))
    ]
    for name, side in zip(("before", "after"), sides, strict=True):
        if not side and not any(refusal.field == name for refusal in refusals):
            refusals.append(BadValue("Type or paste figures here, one a line.", field=name))
    if refusals:
        raise Several(refusals)
    return lay_beside(measure, *sides)


def _read(text: str, name: str, measure: Measure, mark: DecimalMark, refusals: list[Refusal]) -> Iterator[Reading]:
    pieces = [piece.strip() for piece in _PIECES.split(text) if piece.strip()]
    if len(pieces) > MOST_FIGURES:
        refusals.append(BadValue(f"{len(pieces)} figures came; at most {MOST_FIGURES} are taken.", field=name))
        return
    for piece in pieces:
        try:
            reading = parse_entry(piece, unit_of(measure.unit), mark)
            check_reading(reading.low, measure)
            yield reading
        except Refusal as refusal:
            refusal.field = name
            refusals.append(refusal)
            return
