"""The script: its lines, who speaks them, how words in it are said, and when somebody is speaking."""
