-- Photos of a survey, beside the fact or the thing they show. Written once, put away, never deleted.

CREATE TABLE IF NOT EXISTS photos (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  job_id INT UNSIGNED NOT NULL,
  path VARCHAR(300) NOT NULL,
  name VARCHAR(120) NOT NULL,
  width_px SMALLINT UNSIGNED NOT NULL,
  height_px SMALLINT UNSIGNED NOT NULL,
  image MEDIUMBLOB NOT NULL,
  thumbnail BLOB NOT NULL,
  created_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  archived_at DATETIME NULL,
  KEY photos_of_job (job_id, path),
  CONSTRAINT photos_job FOREIGN KEY (job_id) REFERENCES jobs (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;
