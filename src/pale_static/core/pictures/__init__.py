"""Pictures: planes of floats, colours, borders, sampling, softening."""
