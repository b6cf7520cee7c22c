"""Long work in the background: asked for in a page, done by a worker, kept under a unique key."""
