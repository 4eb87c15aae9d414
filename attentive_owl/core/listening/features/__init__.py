"""What is measured in the sound before anything is known of the score; frame by frame, or place by place."""
