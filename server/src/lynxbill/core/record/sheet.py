"""What is kept of the runs of one workload in one sitting."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.record.ids import SittingId
from lynxbill.core.terms.grain import NO_GRAIN, Grain
from lynxbill.core.terms.measure import MeasureId


@dataclass(frozen=True, slots=True)
class Level:
    """
    Where one measure stands in one sitting.

    `runs` is how many count; `alike` of them share the recipe that most have, and only these are in the figures:
    `unit` is the median of their oriented readings (temperatures as they were read), `squares` the sum of squares of
    the readings around their mean, `grain` how finely they were read, in the measure's unit. `told` is the mean of
    all readings of complete runs, also those that were remembered or claimed. None where there is no such run.
    """

    runs: int
    alike: int = 0
    recipe: str = ""
    unit: float | None = None
    squares: float = 0.0
    grain: Grain = NO_GRAIN
    told: float | None = None


@dataclass(frozen=True, slots=True)
class Sheet:
    """
    The runs of one workload in one sitting, warm-ups aside.

    `recipes` are the distinct (version, target, parameters) as written; `soaks` the shortest and longest soak and
    `seconds` the median duration, in seconds, where they were noted; `levels` by measure id.
    """

    runs: int
    failed: int
    recipes: tuple[tuple[str, str, str], ...]
    soaks: tuple[float, float] | None
    seconds: float | None
    levels: Mapping[MeasureId, Level]


SheetKey = tuple[SittingId, str]
