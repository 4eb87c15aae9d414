"""What to practise when: the days of a week, from what was set and what was done."""

from attentive_owl.core.planning.week import Day, Share, Task, plan

__all__ = ["Day", "Share", "Task", "plan"]
