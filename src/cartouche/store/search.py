"""Finding texts by words: SQLite's full text search (FTS5), over an index that lives for one question.

Nothing of it is kept on the disk: what a teacher deletes for good must not live on in an index.
"""

import sqlite3
from collections.abc import Mapping
from contextlib import closing


def matching(texts: Mapping[str, str], words: str) -> set[str]:
    """The keys of those in which every word begins one, whatever its accents and capitals. texts: by key."""
    wanted = [word.replace('"', '""') for word in words.replace("\0", " ").split() if any(letter.isalnum() for letter in word)]
    if not wanted:
        return set(texts)
    with closing(sqlite3.connect(":memory:")) as index:
        index.execute("CREATE VIRTUAL TABLE found USING fts5(key UNINDEXED, text, tokenize = 'unicode61 remove_diacritics 2')")
        index.executemany("INSERT INTO found VALUES (?, ?)", texts.items())
        asked = " ".join(f'"{word}"*' for word in wanted)
        return {key for (key,) in index.execute("SELECT key FROM found WHERE found MATCH ?", (f"text : ({asked})",))}
