"""What a track consists of: sections, energy, where somebody sings."""
