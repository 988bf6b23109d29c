"""Settings: ``start`` for ``./giusto start``, ``test`` for ``./giusto test``; ``base`` is shared."""
