"""Pages of one studio: a folder each, with its handler, template and parts."""
