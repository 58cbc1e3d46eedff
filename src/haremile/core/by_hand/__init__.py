"""What a person times, reads off or types: amounts as written, marks of a race, own reaction."""
