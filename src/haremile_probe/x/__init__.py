"""What is seen of windows through an X server; Xlib is imported only where it is needed."""
