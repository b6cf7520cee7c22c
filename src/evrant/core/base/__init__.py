"""Units, quantities, estimates, margins, what is remembered, and sourced tables."""
