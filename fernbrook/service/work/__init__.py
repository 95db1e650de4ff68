"""What worker processes do: on plain values, outside the server, writing files whole."""
