"""The shapes of requests and answers. Values of the core are given as they are; the rest is laid out here."""
