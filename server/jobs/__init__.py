"""Long work: jobs with progress that can be cancelled and gone on with."""
