"""What is said of a picture file that is of no use."""


class PictureError(Exception):
    """A file that is no usable picture; the text says which, why, and what to do."""
