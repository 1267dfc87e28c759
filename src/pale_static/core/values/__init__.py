"""Values: what a parameter may be, what it is set to, keys, formulas, integrals of speeds."""
