"""The command line: arguments, exit codes, printing."""
