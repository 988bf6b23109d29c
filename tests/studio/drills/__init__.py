"""Tests of the place where the click is set."""
