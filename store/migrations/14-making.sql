-- The changes to a theme that are being made on a desk.
CREATE TABLE makings (desk text, text blob, made datetime, PRIMARY KEY (desk));
