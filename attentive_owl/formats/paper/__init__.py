"""What is printed: reports, sheets to hand out, tape strips."""
