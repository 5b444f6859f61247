-- What was chosen on a draft, step by step, and looks that were put by.
CREATE TABLE steps (id integer PRIMARY KEY AUTOINCREMENT, desk text, title text, before blob, after blob, undone numeric, made datetime);
CREATE TABLE kepts (id integer PRIMARY KEY AUTOINCREMENT, desk text, name text, text blob, made datetime);
