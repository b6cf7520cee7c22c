"""Studio → SVG: plan, sections and the camera's picture, in projection and one scale."""
