"""What a plan can hope for, its run sheet, and when it may stop."""
