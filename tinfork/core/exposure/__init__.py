"""From a reading to exposures: articulation curves, the planner, what an exposure serves."""
