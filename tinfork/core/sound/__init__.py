"""Sound files in: decoding, resampling, peaks for drawing, what is wrong with a recording."""
