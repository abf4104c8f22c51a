ALTER TABLE jobs ADD COLUMN IF NOT EXISTS about JSON NULL;

ALTER TABLE jobs ADD KEY IF NOT EXISTS jobs_by_kind (kind, created_at);

CREATE TABLE IF NOT EXISTS job_pieces (
  job_id CHAR(36) NOT NULL,
  number INT UNSIGNED NOT NULL,
  hash CHAR(64) NULL,
  report JSON NOT NULL,
  PRIMARY KEY (job_id, number),
  KEY job_pieces_by_hash (hash),
  FOREIGN KEY (job_id) REFERENCES jobs (id) ON DELETE CASCADE
);
