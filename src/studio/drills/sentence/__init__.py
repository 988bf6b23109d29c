"""The drill's sentence: its table of words, the form and the address made of them, what stands at hand beside it."""
