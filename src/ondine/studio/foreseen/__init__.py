"""The picture before the shot: the forecast as a scene, the table's light as colours, the tracer beside the window."""
