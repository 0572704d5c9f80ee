"""What is declared of a run travels whole: as it is recorded, as it is sent, and as it comes back when undone."""

import httpx

from lynxbill.api.wire.bodies import RunIn
from lynxbill.api.wire.schemas import RunOut
from lynxbill.core.record.run import RUN_MEMBERS, SENT_MEMBERS
from lynxbill.exchange.evidence_schema import RunFileRun
from lynxbill.store.tables.evidence import RunRow
from tests.api.bodies import Job, new_id


def test_every_form_of_a_run_has_every_member() -> None:
    assert set(RUN_MEMBERS) <= set(RunFileRun.model_fields)
    assert set(RUN_MEMBERS) <= set(RunOut.model_fields)
    assert set(SENT_MEMBERS) <= set(RunIn.model_fields)
    assert all(hasattr(RunRow, name) for name in RUN_MEMBERS)


def test_a_run_that_was_removed_comes_back_with_all_that_was_noted_of_it(api: httpx.Client) -> None:
    job = Job(api).describe()
    sitting, run = job.sitting(purpose="trial"), new_id()
    noted = {"note": "the door stood open", "parameters": {"sheets": 12}, "workload_version": "7", "pair_label": "4"}
    job.run(sitting, 1, 41.0, run, **noted).raise_for_status()
    (recorded,) = job.runs()
    assert {name: recorded[name] for name in noted} == noted
    api.delete(f"/machines/{job.machine}/runs/{run}").raise_for_status()
    # As the screen sends it: all but what the server says itself.
    sentence = ("excluded_late", "written_at", "left_out_at", "changes", "counts_for")
    body = {key: value for key, value in recorded.items() if key not in sentence}
    job.post("/runs", {"runs": [body | {"workload": job.workload, "version": None}]}).raise_for_status()
    (back,) = job.runs()
    ours = {"version", "written_at", "changes"}
    assert {k: v for k, v in back.items() if k not in ours} == {k: v for k, v in recorded.items() if k not in ours}
