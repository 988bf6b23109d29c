"""How a player is heard: keys, microphone, MIDI, stand-ins; the delay of it all; strokes that count in."""
