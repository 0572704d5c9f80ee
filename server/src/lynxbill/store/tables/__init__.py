"""
The tables, with what the database itself refuses: see the checks, keys and the seal triggers in migrations.

All of them are known as soon as one is imported: keys and deletions follow them by their names.
"""

from lynxbill.store.tables import base, evidence, kept, machine, swap

__all__ = ["base", "evidence", "kept", "machine", "swap"]
