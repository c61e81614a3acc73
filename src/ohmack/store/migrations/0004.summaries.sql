-- What the list of jobs shows, kept beside the design so that the list evaluates nothing; and forms sent twice open one job.

CREATE TABLE IF NOT EXISTS summaries (
  design_id INT UNSIGNED NOT NULL PRIMARY KEY,
  number INT UNSIGNED NOT NULL,
  state VARCHAR(20) NOT NULL,
  headline VARCHAR(120) NOT NULL,
  detail VARCHAR(240) NOT NULL,
  stops SMALLINT UNSIGNED NOT NULL,
  watches SMALLINT UNSIGNED NOT NULL,
  checked TINYINT(1) NOT NULL,
  picture MEDIUMTEXT NOT NULL,
  CONSTRAINT summaries_design FOREIGN KEY (design_id) REFERENCES designs (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

ALTER TABLE jobs ADD COLUMN IF NOT EXISTS opened_with VARCHAR(64) NULL, ADD UNIQUE KEY IF NOT EXISTS jobs_opened_with (opened_with);
ALTER TABLE jobs ADD KEY IF NOT EXISTS jobs_open (archived_at, id);
