"""Small simulators of what a director has outside of Pemlo: real work, real noise, real seconds. No Qt here.

They are programs of their own: nothing of Pemlo imports them.
"""
