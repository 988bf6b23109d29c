"""How one comes into a studio and leaves it: accounts, codes that are used once, who may what."""
