"""Brings a store that an older Pemlo wrote to what this one reads: all of it, or nothing. SQLite."""

import sqlite3

from pemlo.core.arrivals.store_rows import KIND, OWN

OLD_VERSION = 2  # every frame had all of its words in its own row


def upgrade(made: sqlite3.Connection, tables: str, version: int) -> None:
    """Keep once what many frames share. Rows that cannot be ours are left out, and looked at anew.

    Parameters
    ----------
    made : Connection
        To a store of the old version.
    tables : str
        SQL that makes the tables as they are now.
    version : int
        That the store has then.

    Raises
    ------
    sqlite3.DatabaseError
        If it is damaged, or has other columns; nothing is changed then.
    """
    kind, own = ", ".join(KIND), ", ".join(OWN)
    same = " AND ".join(f"old.{name} = kinds.{name}" for name in KIND)
    # The names are our own; the index is what makes it quick.
    script = f"""
    BEGIN IMMEDIATE;
    ALTER TABLE frames RENAME TO old;
    {tables}
    INSERT INTO names (name) SELECT shot FROM old WHERE typeof(shot) = 'text'
     UNION SELECT machine FROM old WHERE typeof(machine) = 'text';
    INSERT INTO kinds ({kind}) SELECT DISTINCT {kind} FROM old;
    CREATE INDEX by_name ON names (name);
    CREATE INDEX by_kind ON kinds ({kind});
    INSERT INTO frames (shot, machine, kind, {own})
     SELECT shots.id, machines.id, kinds.id, {", ".join(f"old.{name}" for name in OWN)} FROM old
     JOIN names AS shots ON shots.name = old.shot JOIN names AS machines ON machines.name = old.machine
     JOIN kinds ON {same};
    DROP INDEX by_name;
    DROP INDEX by_kind;
    DROP TABLE old;
    PRAGMA user_version={version};
    COMMIT;
    """  # noqa: S608
    try:
        made.executescript(script)
    except sqlite3.Error:
        made.rollback()
        raise
