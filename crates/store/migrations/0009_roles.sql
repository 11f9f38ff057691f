-- What each device that was let in may do. Those that were let in before may do what they could.
ALTER TABLE device ADD COLUMN role TEXT NOT NULL DEFAULT 'everything' CHECK (role IN ('watch', 'log', 'everything'));
