"""What leaves: settings to be entered, command lines, reports. Pure text."""
