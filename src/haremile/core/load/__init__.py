"""Load: what pages take, and the smallest machine that carries so many."""
