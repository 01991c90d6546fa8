"""Made-up calls to be practised on: what is really wrong, a unit that answers in its present state, and what each step does."""
