"""The tidy stack: ordered clean-up steps on a solve; the solve underneath stays."""
