"""Pictures: planes of floats, colours, borders, sampling, and material as the engine sees it."""
