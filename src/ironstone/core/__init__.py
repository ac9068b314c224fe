"""The rules of the job: NumPy in, NumPy out. No web, no database, no files."""
