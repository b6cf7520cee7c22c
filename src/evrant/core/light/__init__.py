"""Light: photometry and exposure."""
