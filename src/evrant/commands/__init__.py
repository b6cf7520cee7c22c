"""What the command line does with a studio file: a module each, imported when it is asked for."""
