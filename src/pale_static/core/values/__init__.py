"""Values: parameters and their settings, keys, formulas, integrals of speeds."""
