"""The web site of Giusto, over the core in ``giusto``."""
