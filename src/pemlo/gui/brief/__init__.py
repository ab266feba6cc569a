"""The brief: what is due. Shots, delivery, machines and their hours."""
