"""Every possible change to a studio, as data, and how it is applied; it knows the studio and paths, nothing else."""
