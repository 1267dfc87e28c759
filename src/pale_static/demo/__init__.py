"""The demo world: the last night of the Lantern Line, a made-up tram line."""
