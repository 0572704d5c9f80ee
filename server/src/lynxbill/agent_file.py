"""The agent as a single file that any Python from 3.11 on runs: its own part of this package, and nothing else."""

import io
import zipfile
from functools import cache
from pathlib import Path

PACKAGE = Path(__file__).parent
# The nouns that the agent shares with the core; each of them is the standard library alone.
SHARED = (
    "__init__.py",
    "core/__init__.py",
    "core/heat/__init__.py",
    "core/heat/roles.py",
    "core/terms/__init__.py",
    "core/terms/errors.py",
    "core/terms/measure.py",
    "core/terms/money.py",
    "core/record/__init__.py",
    "core/record/build.py",
    "core/record/disturbance.py",
    "core/record/ids.py",
)
# An older Python reads this, and says what is needed, before it meets anything that it can't read.
MAIN = """import sys

if sys.version_info < (3, 11):
    sys.stderr.write("This agent needs Python 3.11 or newer; this is %d.%d. Debian 12 and its live system have it.\\n"
                     % tuple(sys.version_info[:2]))
    sys.exit(2)

if __name__ == "__main__":
    from lynxbill.bench.console import main

    sys.exit(main())
"""
SHEBANG = b"#!/usr/bin/env python3\n"
# Every file bears the same date: the same source makes the same bytes.
DATE = (2026, 1, 1, 0, 0, 0)


@cache
def build_agent() -> bytes:
    """Build the file."""
    content = io.BytesIO()
    with zipfile.ZipFile(content, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr(zipfile.ZipInfo("__main__.py", DATE), MAIN)
        own = sorted(path.relative_to(PACKAGE).as_posix() for path in (PACKAGE / "bench").rglob("*.py"))
        for name in (*SHARED, *own):
            file.writestr(zipfile.ZipInfo(f"lynxbill/{name}", DATE), (PACKAGE / name).read_bytes())
    return SHEBANG + content.getvalue()
