"""What many takes say together: pure functions of the facts of takes."""
