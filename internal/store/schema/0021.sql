-- Under which step of the Journal a letter was sorted out, turned away or taken for junk when it came.
ALTER TABLE letters ADD COLUMN sorted_in INTEGER;
CREATE INDEX letters_sorted_in ON letters (sorted_in) WHERE sorted_in IS NOT NULL;
-- Kinds come up by themselves: when the next one does, and which have come up, with when.
ALTER TABLE people ADD COLUMN surface_at INTEGER;
ALTER TABLE people ADD COLUMN come_up TEXT NOT NULL DEFAULT '';
-- Kinds have their folders on mail servers: what lies in the Shallows is to be put there.
INSERT INTO remote_tasks (owner, account_id, conversation_id)
	SELECT DISTINCT c.owner, f.account_id, c.id FROM remote_folders f JOIN remote_letters r ON r.folder_id = f.id JOIN letters l ON l.id = r.letter_id JOIN conversations c ON c.id = l.conversation_id
	WHERE c.place = 'shallows' ON CONFLICT DO NOTHING;
-- Junk is learned where its owner says so; why a letter was like it when it came, '' if it wasn't.
ALTER TABLE people ADD COLUMN learn_junk INTEGER NOT NULL DEFAULT 0;
ALTER TABLE letters ADD COLUMN junk TEXT NOT NULL DEFAULT '';
-- What is held with which one signs in somewhere (sorting.SignsIn).
CREATE INDEX letters_codes ON letters (owner) WHERE in_at IS NULL AND traits & 512 <> 0;
