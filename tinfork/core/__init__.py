"""The engine: sound in, mouths on frames out. Plain values, no Django, no interface code.

Units throughout: seconds for media time, int for frames, Fraction for a frame rate, Hz for a sample rate.
"""
