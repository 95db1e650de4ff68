"""The web interface of the service: routes and shapes, no rules."""
