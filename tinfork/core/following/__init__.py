"""What was set in a scene goes along when what lies beneath it becomes another: its frame rate, or a sound of it."""
