"""Every limit on what comes in, in one place. The messages that state them are built from these numbers."""

MAX_SOUND_BYTES = 1_500 * 1024 * 1024
MAX_SOUND_SECONDS = 90 * 60
MIN_SOUND_SECONDS = 0.05
MAX_SCRIPT_CHARACTERS = 200_000
MAX_NAME_CHARACTERS = 120
MIN_FPS, MAX_FPS = 1, 120
MAX_START_FRAME = 10_000_000
MAX_HOLD, MAX_LEAD = 12, 3
