"""The command line. What a command does not need is not imported: `fernbrook --help` answers at once."""
