"""The made-up sample world and its hidden truth."""
