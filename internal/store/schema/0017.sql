-- The names that follow-ups have, open and done, without reading their rows.
DROP INDEX followups_project;
DROP INDEX followups_context;
DROP INDEX followups_assignee;
CREATE INDEX followups_project ON followups (owner, project, done_at, alive) WHERE alive AND project <> '';
CREATE INDEX followups_context ON followups (owner, context, done_at, alive) WHERE alive AND context <> '';
CREATE INDEX followups_assignee ON followups (owner, assignee, done_at, alive) WHERE alive AND assignee <> '';
-- Only the inbox runs as a queue, and only the bin by when something came there: a move
-- between other places writes neither.
DROP INDEX conversations_queue;
DROP INDEX conversations_since;
CREATE INDEX conversations_queue ON conversations (owner, back_rank, queue_at, id) WHERE place = 'inbox';
CREATE INDEX conversations_since ON conversations (owner, place_since, id) WHERE place = 'bin';
