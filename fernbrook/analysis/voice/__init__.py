"""Where somebody sings or speaks: by a trained network where its weights are installed, else by moving partials."""
