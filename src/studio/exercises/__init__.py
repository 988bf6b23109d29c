"""What a player works on: exercises, whose rungs takes are played at, and the sessions they are played in."""
