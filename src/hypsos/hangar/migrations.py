# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps that bring a hangar's file to the present version, one after the other."""

MIGRATIONS = (
    """
    CREATE TABLE models (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE COLLATE NOCASE, document TEXT NOT NULL,
        changed_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')));
    CREATE TABLE snapshots (id INTEGER PRIMARY KEY, model_id INTEGER NOT NULL REFERENCES models ON DELETE CASCADE,
        label TEXT NOT NULL, document TEXT NOT NULL,
        made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')));
    CREATE TABLE flights (id INTEGER PRIMARY KEY, model_id INTEGER NOT NULL REFERENCES models ON DELETE CASCADE,
        flight TEXT NOT NULL);
    CREATE INDEX snapshots_by_model ON snapshots (model_id);
    CREATE INDEX flights_by_model ON flights (model_id);
    """,
    # a revision per model, compared at each write; numbers that are never given out twice
    """
    ALTER TABLE models ADD COLUMN revision INTEGER NOT NULL DEFAULT 1;
    CREATE TABLE new_snapshots (id INTEGER PRIMARY KEY AUTOINCREMENT,
        model_id INTEGER NOT NULL REFERENCES models ON DELETE CASCADE, label TEXT NOT NULL, document TEXT NOT NULL,
        made_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')));
    CREATE TABLE new_flights (id INTEGER PRIMARY KEY AUTOINCREMENT,
        model_id INTEGER NOT NULL REFERENCES models ON DELETE CASCADE, flight TEXT NOT NULL);
    INSERT INTO new_snapshots SELECT id, model_id, label, document, made_at FROM snapshots;
    INSERT INTO new_flights SELECT id, model_id, flight FROM flights;
    DROP TABLE snapshots;
    DROP TABLE flights;
    ALTER TABLE new_snapshots RENAME TO snapshots;
    ALTER TABLE new_flights RENAME TO flights;
    CREATE INDEX snapshots_by_model ON snapshots (model_id);
    CREATE INDEX flights_by_model ON flights (model_id);
    """,
    # transmitters of the pilot's own, which serve many models
    """
    CREATE TABLE transmitters (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE COLLATE NOCASE, document TEXT NOT NULL);
    """,
    # one number for every row and every revision of a model, never given out twice: a model that
    # was taken out and one that came in its place are never taken for each other
    """
    CREATE TABLE counter (n INTEGER NOT NULL);
    INSERT INTO counter SELECT max(coalesce(max(id), 0), coalesce(max(revision), 0)) FROM models;
    """,
    # a flight that is typed and not yet written down
    """
    CREATE TABLE drafts (model_id INTEGER PRIMARY KEY REFERENCES models ON DELETE CASCADE, text TEXT NOT NULL);
    """,
    # the steps of a sheet that were keyed in, as they were then; by model and transmitter
    """
    CREATE TABLE keyed (model_id INTEGER NOT NULL REFERENCES models ON DELETE CASCADE,
        transmitter TEXT NOT NULL COLLATE NOCASE, step TEXT NOT NULL, said TEXT NOT NULL,
        PRIMARY KEY (model_id, transmitter, step));
    """,
    # models that were taken out, with all that belongs to them, for a while
    """
    CREATE TABLE bin (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, content TEXT NOT NULL,
        gone_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')));
    """,
)
