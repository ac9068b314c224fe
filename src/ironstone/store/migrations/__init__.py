"""Alembic migrations of the review file; ``upgrade`` brings a file to the newest form."""
