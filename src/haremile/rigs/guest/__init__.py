"""Virtual guests under QEMU."""
