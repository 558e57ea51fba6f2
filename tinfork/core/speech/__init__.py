"""From words and sound to a reading: pronunciation, the acoustic model, the exact alignment."""
