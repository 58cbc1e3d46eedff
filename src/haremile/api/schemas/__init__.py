"""What goes over the wire where it differs from the records, a module for each noun."""
