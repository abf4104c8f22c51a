CREATE TABLE IF NOT EXISTS kit_versions (
  kit_id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  number INT UNSIGNED NOT NULL,
  name VARCHAR(80) NOT NULL,
  kit_version VARCHAR(32) NOT NULL,
  hash CHAR(64) NOT NULL,
  kept_at TIMESTAMP(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  PRIMARY KEY (kit_id, number),
  FOREIGN KEY (kit_id) REFERENCES kits (id) ON DELETE CASCADE
);

CREATE TABLE IF NOT EXISTS kit_version_files (
  kit_id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  number INT UNSIGNED NOT NULL,
  path VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  hash CHAR(64) NOT NULL,
  PRIMARY KEY (kit_id, number, path),
  FOREIGN KEY (kit_id, number) REFERENCES kit_versions (kit_id, number) ON DELETE CASCADE,
  FOREIGN KEY (hash) REFERENCES blobs (hash)
);
