"""What a student is shown: drawn pictures, the marked clip, the coach's voice."""
