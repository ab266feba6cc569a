"""Small stand-ins for what a director has outside of Pemlo: real work, real noise, real seconds. No Qt here."""
