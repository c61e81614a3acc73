-- People sign in: how they are known, how long they stay, what they did; numbers of jobs are a shop's own.

ALTER TABLE shop
  ADD COLUMN IF NOT EXISTS last_job INT UNSIGNED NOT NULL DEFAULT 400,
  ADD COLUMN IF NOT EXISTS idle_minutes SMALLINT UNSIGNED NOT NULL DEFAULT 30,
  ADD COLUMN IF NOT EXISTS total_hours SMALLINT UNSIGNED NOT NULL DEFAULT 12;

UPDATE shop s SET s.last_job = GREATEST(s.last_job,
  COALESCE((SELECT MAX(CAST(SUBSTRING(j.number, 3) AS UNSIGNED)) FROM jobs j WHERE j.shop_id = s.id), 0));

ALTER TABLE jobs
  DROP INDEX IF EXISTS jobs_number,
  ADD UNIQUE KEY IF NOT EXISTS jobs_number_of_shop (shop_id, number),
  DROP INDEX IF EXISTS jobs_opened_with,
  ADD UNIQUE KEY IF NOT EXISTS jobs_opened_with_of_shop (shop_id, opened_with);

-- login: what is typed at sign-in, one on the whole server; without one a person only signs what was done.
ALTER TABLE people
  ADD COLUMN IF NOT EXISTS login VARCHAR(120) NULL,
  ADD COLUMN IF NOT EXISTS role VARCHAR(12) NOT NULL DEFAULT 'installer',
  ADD COLUMN IF NOT EXISTS password_hash VARCHAR(200) NULL,
  ADD COLUMN IF NOT EXISTS totp_secret VARCHAR(64) NULL,
  ADD COLUMN IF NOT EXISTS totp_pending VARCHAR(64) NULL,
  ADD COLUMN IF NOT EXISTS totp_step BIGINT NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS put_away_at DATETIME NULL,
  ADD COLUMN IF NOT EXISTS version INT UNSIGNED NOT NULL DEFAULT 1,
  ADD UNIQUE KEY IF NOT EXISTS people_login (login);

-- Of a session only what its token hashes to is stored. `half`: the password was right, the second factor is due.
CREATE TABLE IF NOT EXISTS sessions (
  digest CHAR(64) CHARACTER SET ascii NOT NULL PRIMARY KEY,
  shop_id INT UNSIGNED NOT NULL,
  person_id INT UNSIGNED NOT NULL,
  half BOOLEAN NOT NULL DEFAULT FALSE,
  made_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  seen_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  ends_at DATETIME NOT NULL,
  browser VARCHAR(160) NOT NULL DEFAULT '',
  address VARCHAR(45) NOT NULL DEFAULT '',
  KEY sessions_of_person (person_id, made_at),
  KEY sessions_end (ends_at),
  CONSTRAINT sessions_shop FOREIGN KEY (shop_id) REFERENCES shop (id),
  CONSTRAINT sessions_person FOREIGN KEY (person_id) REFERENCES people (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

-- Links that work once: an invitation, a new password, ten codes for a lost phone.
CREATE TABLE IF NOT EXISTS one_time_links (
  digest CHAR(64) CHARACTER SET ascii NOT NULL PRIMARY KEY,
  shop_id INT UNSIGNED NOT NULL,
  person_id INT UNSIGNED NOT NULL,
  kind VARCHAR(10) NOT NULL,
  made_by INT UNSIGNED NULL,
  made_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  ends_at DATETIME NOT NULL,
  used_at DATETIME NULL,
  KEY links_of_person (person_id, kind),
  CONSTRAINT one_time_shop FOREIGN KEY (shop_id) REFERENCES shop (id),
  CONSTRAINT one_time_person FOREIGN KEY (person_id) REFERENCES people (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

-- Wrong passwords and codes, by a hash of the name or of the address they came from.
CREATE TABLE IF NOT EXISTS wrong_guesses (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  subject CHAR(64) CHARACTER SET ascii NOT NULL,
  at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  KEY guesses_of (subject, at),
  KEY guesses_at (at)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

CREATE TABLE IF NOT EXISTS audit (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shop_id INT UNSIGNED NOT NULL,
  person_id INT UNSIGNED NULL,
  at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  what VARCHAR(40) NOT NULL,
  about VARCHAR(200) NOT NULL DEFAULT '',
  address VARCHAR(45) NOT NULL DEFAULT '',
  KEY audit_of_shop (shop_id, id),
  CONSTRAINT audit_shop FOREIGN KEY (shop_id) REFERENCES shop (id),
  CONSTRAINT audit_person FOREIGN KEY (person_id) REFERENCES people (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;
