"""A small path tracer: real light, real noise, real seconds. Its loops are compiled."""
