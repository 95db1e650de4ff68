"""The one renderer: a plan in, blocks of sound out."""
