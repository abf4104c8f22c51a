CREATE TABLE IF NOT EXISTS documents (
  kind VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(80) NOT NULL,
  version INT UNSIGNED NOT NULL,
  content JSON NOT NULL,
  token CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NULL,
  place DOUBLE NOT NULL,
  picture MEDIUMBLOB NULL,
  created_at TIMESTAMP(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  saved_at TIMESTAMP(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  deleted_at TIMESTAMP(3) NULL,
  PRIMARY KEY (kind, id),
  KEY documents_by_place (kind, deleted_at, place)
);

CREATE TABLE IF NOT EXISTS document_versions (
  kind VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  version INT UNSIGNED NOT NULL,
  content JSON NOT NULL,
  saved_at TIMESTAMP(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  PRIMARY KEY (kind, id, version),
  FOREIGN KEY (kind, id) REFERENCES documents (kind, id) ON DELETE CASCADE
);

INSERT IGNORE INTO documents (kind, id, name, version, content, place, picture, created_at, saved_at, deleted_at)
  SELECT 'figure', id, name, version, recipe, place, picture, created_at, saved_at, deleted_at FROM figures;

INSERT IGNORE INTO document_versions (kind, id, version, content, saved_at)
  SELECT 'figure', figure_id, version, recipe, saved_at FROM figure_versions;

INSERT IGNORE INTO documents (kind, id, name, version, content, place, saved_at)
  SELECT 'mix', id, name, version, mix, place, saved_at FROM mixes;

INSERT IGNORE INTO document_versions (kind, id, version, content, saved_at)
  SELECT 'mix', id, version, mix, saved_at FROM mixes;

INSERT IGNORE INTO documents (kind, id, name, version, content, place, saved_at)
  SELECT 'target', id, name, version, target, place, saved_at FROM targets;

INSERT IGNORE INTO document_versions (kind, id, version, content, saved_at)
  SELECT 'target', id, version, target, saved_at FROM targets;
