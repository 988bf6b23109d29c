"""The click as sound and as MIDI."""
