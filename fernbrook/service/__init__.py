"""The use cases. The only place that joins the rules with what is kept."""
