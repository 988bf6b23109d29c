"""A teacher and pupils: what a pupil agreed to show, what a teacher says of it, what is to be played next."""
