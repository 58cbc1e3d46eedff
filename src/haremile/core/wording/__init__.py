"""Every sentence."""
