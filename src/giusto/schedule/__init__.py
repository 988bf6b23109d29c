"""Clicks, notes and silences of a drill, exact until seconds."""

from giusto.schedule.layout import Schedule, schedule

__all__ = ["Schedule", "schedule"]
