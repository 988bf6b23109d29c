"""The examples in docstrings are tests."""

import doctest
import importlib
import pkgutil
import unittest

import giusto
import studio.sheet.words
import studio.takes.words


def load_tests(loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str | None) -> unittest.TestSuite:
    """Add the examples of every core module, and of the modules that make words."""
    modules = [importlib.import_module(f"giusto.{m.name}") for m in pkgutil.iter_modules(giusto.__path__)]
    for module in [*modules, studio.sheet.words, studio.takes.words]:
        tests.addTests(doctest.DocTestSuite(module))
    return tests
