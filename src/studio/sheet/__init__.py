"""The sheet and the plumb line: plain layout values, and the templates that draw them."""
