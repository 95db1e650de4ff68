"""What is kept: the database, the audio files and the pictures of their waveforms."""
