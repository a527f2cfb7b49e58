-- The full-text index has words as Ebbe folds them (letter.Words), so that it only cuts at blanks; with an
-- index of their first two and three letters for what is still being typed. Copies are those who have one,
-- files the names of what is attached.
DROP TABLE letters_text_words;
DROP TABLE letters_text;
DROP TABLE notes_text;
CREATE VIRTUAL TABLE letters_text USING fts5(
  subject, sender, recipients, copies, body, files, content='', contentless_delete=1, prefix='2 3', tokenize='ascii'
);
CREATE VIRTUAL TABLE letters_text_words USING fts5vocab(letters_text, row);
CREATE VIRTUAL TABLE notes_text USING fts5(
  subject, sender, recipients, copies, body, files, content='', contentless_delete=1, tokenize='ascii'
);
