"""What a teacher does during the lesson: its actions and their keys, hold, timer, closer look, steps."""
