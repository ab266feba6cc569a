"""The computation: no interface, no clock, no global random state; files only in `persistence`."""
