"""The job itself: pure Python and NumPy, no web, no database, no clock, no files."""
