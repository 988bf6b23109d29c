"""A Django command, called by the name that people type."""

import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    execute_from_command_line(["./giusto manage", *sys.argv[1:]])
