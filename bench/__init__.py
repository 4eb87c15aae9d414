"""Benchmarks, and the second, independent source of sound that they share with the tests."""
