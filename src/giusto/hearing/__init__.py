"""Hearing: sound files, onsets of struck, plucked and bowed sounds, the click's bleed, a recorder's clock."""
