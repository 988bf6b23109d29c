"""Clock and hand apart: the two-level timekeeper as a state-space smoother."""
