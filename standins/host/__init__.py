"""A host for mixes, such as one publishes to: uploads that can be resumed, and what is said of each mix."""
