"""A studio: players with accounts, a teacher and pupils. Run by ``studio.settings.test_studio``."""
