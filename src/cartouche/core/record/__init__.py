"""What a recording is: its time line, its chapters, the room that it has."""
