"""What is the same of every launch, whatever its windows are seen by."""
