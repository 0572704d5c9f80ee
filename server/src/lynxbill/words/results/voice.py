"""One machine's voice: what the core says in codes, in words with the machine's decimal mark."""

from dataclasses import dataclass

from lynxbill.core.judgement.sitting import LeftOut
from lynxbill.core.result.flags import Flag
from lynxbill.core.result.result import MeasureResult
from lynxbill.words.base.figures import DecimalMark
from lynxbill.words.results.flags import say_flag
from lynxbill.words.results.left_out import say_left_out


@dataclass(frozen=True, slots=True)
class Voice:
    mark: DecimalMark

    def flag(self, flag: Flag, result: MeasureResult) -> str:
        return say_flag(flag, result, self.mark)

    def left_out(self, left: LeftOut) -> str:
        return say_left_out(left)
