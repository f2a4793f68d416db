"""Splash to pixels: the scene before a camera, its lamps, the ray tracer, the exposure."""
