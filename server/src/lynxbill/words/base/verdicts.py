"""The words of verdicts and of how good the evidence is: the one place that has them."""

from collections.abc import Mapping

from lynxbill.core.judgement.verdict import VerdictWord
from lynxbill.core.result.result import Grade

VERDICTS: Mapping[VerdictWord, str] = {
    "real_gain": "Real gain",
    "real_loss": "Real loss",
    "no_change": "No change",
    "not_settled": "Not settled",
    "untested": "Untested",
}
GRADES: Mapping[Grade, str] = {
    "full_plan": "full plan held",
    "block_order": "plan held, before then after",
    "one_mount": "plan held, one mount a side",
    "boots_unknown": "restarts not known",
    "from_notes": "typed from notes",
    "part_as_told": "another part only as told",
    "margin_changed": "margin changed after readings",
    "conditions_differ": "plan held, conditions differ",
    "closed_short": "a sitting closed short of its plan",
    "corrected_late": "taken out or corrected late",
    "history_unknown": "what was shown before is not known",
    "changed_after_verdict": "changed after the verdict",
    "unplanned": "not planned",
    "early_look": "an early look",
    "one_sitting": "one sitting a side",
    "one_run": "one run a side",
    "told": "told, not measured",
}
