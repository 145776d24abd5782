"""Stand-ins for what lies outside: papers, cameras, a presenter, a call. They know the truth about what they show."""
