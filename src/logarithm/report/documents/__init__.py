"""What a report says, as sentences and tables of text, whatever it is written on."""
