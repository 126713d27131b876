"""SQLite through SQLAlchemy: tables, sessions, migrations."""
