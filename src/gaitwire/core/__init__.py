"""The rules and the computation of the job: no files, no SQL, no HTTP."""
