-- What was put off until an answer comes is found by the letter that was it.
CREATE INDEX expectations_met ON expectations (met_by) WHERE met_by IS NOT NULL;
