"""The demo: an invented player, her takes, her ladders. All of it is made up."""
