"""Rigs for tests: each shape is built in one place."""
