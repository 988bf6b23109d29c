"""Settings: ``start`` for ``./giusto start``, ``studio`` for ``./giusto studio``; ``test``, ``test_studio`` for tests.

``base`` is shared. Which of them hold is decided by the command, never by a request.
"""
