"""What is installed is named by version and sum alone: where it comes from is the installing machine's own affair."""

import re

import pytest

from tests.conftest import ROOT

PACKAGE = r"[a-z0-9][\w.\-\[\]]*==[\w.+!]+( ;[^\\]*)? \\"
LINE = re.compile(rf"{PACKAGE}|    --hash=sha256:[0-9a-f]{{64}}( \\)?|#.*|", re.IGNORECASE)


@pytest.mark.parametrize("lock", sorted(path.name for path in (ROOT / "server").glob("*.lock")))
def test_a_lock_names_versions_and_sums_and_no_place(lock: str) -> None:
    lines = (ROOT / "server" / lock).read_text().splitlines()
    assert lines
    assert [line for line in lines if not LINE.fullmatch(line)] == []
    assert not any("://" in line for line in lines)
