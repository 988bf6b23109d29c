"""Recordings made elsewhere: dropped on a page, heard behind it, kept as takes."""
