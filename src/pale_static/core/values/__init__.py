"""Values: what a parameter may be, what it is set to, formulas, integrals of speeds."""
