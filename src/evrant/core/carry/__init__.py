"""Carrying a plan out: tape marks, the steps of setting up and testing, what to bring, the session's timetable."""
