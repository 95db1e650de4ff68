"""What leaves, and what comes back: renders, lists, files of markup, bundles, backups, sticks, hosts."""
