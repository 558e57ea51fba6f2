"""A shot as it is handed over: who speaks in it, what is seen, and what is heard."""
