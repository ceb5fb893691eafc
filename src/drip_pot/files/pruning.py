# SPDX-License-Identifier: GPL-3.0-or-later
"""Old steps of the history, and drawings nobody knows, dropped from a book file. Knows SQLite and the layout."""

import re
import sqlite3

_UNDO_BYTES = 512 << 20


def prune(db: sqlite3.Connection) -> None:
    """Drop the oldest steps when undo takes more than 512 MB; only steps that are done, and whole gestures."""
    (done,) = db.execute("SELECT coalesce(max(value), 0) FROM meta WHERE key = 'position'").fetchone()
    sizes = db.execute(
        "SELECT number, sum(coalesce(length(before), 0) + coalesce(length(after), 0)) FROM edit_tile "
        "GROUP BY number ORDER BY number DESC"
    )
    total = 0
    for number, size in sizes.fetchall():
        total += size
        if total > _UNDO_BYTES:
            row = db.execute(
                "SELECT max(number) FROM edit WHERE number <= ? AND NOT joined", (min(number, int(done) - 1) + 1,)
            ).fetchone()
            first = int(row[0]) if row and row[0] is not None else 0  # the step that the history begins with then
            leads = "SELECT min(number - back) FROM edit WHERE number >= ? AND back > 0"
            while (lead := db.execute(leads, (first,)).fetchone()[0]) is not None and int(lead) < first:
                first = int(lead)  # no marker leads back to before the beginning
            if first > 0:
                db.execute("BEGIN IMMEDIATE")
                renumber(db, [n for (n,) in db.execute("SELECT number FROM edit WHERE number >= ?", (first,))])
                db.execute("UPDATE meta SET value = value - ? WHERE key = 'position'", (first,))
                drop_originals(db)
                db.execute("COMMIT")
            return


def renumber(db: sqlite3.Connection, kept: list[int]) -> None:
    """Forget all edits but these, ascending, and number those from 0."""
    db.execute("PRAGMA defer_foreign_keys = ON")
    db.execute("CREATE TEMP TABLE kept (old INTEGER PRIMARY KEY, new INTEGER)")
    db.executemany("INSERT INTO kept VALUES (?, ?)", [(old, new) for new, old in enumerate(kept)])
    db.execute("DELETE FROM edit WHERE number NOT IN (SELECT old FROM kept)")  # and with them what they changed
    for table in ("edit_tile", "change", "edit"):
        for step in (
            "-1 - (SELECT new FROM kept WHERE old = number)",
            "-1 - number",
        ):  # so that none collide
            db.execute(f"UPDATE {table} SET number = {step}")
    db.execute("DROP TABLE kept")


def drop_originals(db: sqlite3.Connection) -> None:
    """Drop drawings that neither a page, a pinned reference nor a step of the history knows any more."""
    known = {int(n) for (n,) in db.execute("SELECT number FROM original")}
    texts = "SELECT json FROM value WHERE key LIKE 'page/%' OR key LIKE 'reference/%'"
    for query in (texts, "SELECT before FROM change WHERE before LIKE '%\"original\"%'",
                  "SELECT after FROM change WHERE after LIKE '%\"original\"%'"):  # fmt: skip
        for (text,) in db.execute(query):
            found = re.findall(r'"original":\s*(\d{1,15})\b', text) if isinstance(text, str) else []
            known -= {int(n) for n in found}
            if not known:
                return
    db.executemany("DELETE FROM original WHERE number = ?", [(n,) for n in known])
