"""What is made of the library for elsewhere: renders, lists, cards, bundles, sticks, backups, what is published."""
