-- Customers and cars as records of their own, where a job stands, and what is searched.

ALTER TABLE customers
  ADD COLUMN IF NOT EXISTS note VARCHAR(500) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS merged_into INT UNSIGNED NULL,
  ADD COLUMN IF NOT EXISTS erased_at DATETIME NULL,
  ADD KEY IF NOT EXISTS customers_of_shop (shop_id, merged_into, name);

ALTER TABLE vehicles
  ADD COLUMN IF NOT EXISTS plate VARCHAR(20) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS chassis VARCHAR(40) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS version INT UNSIGNED NOT NULL DEFAULT 1;

ALTER TABLE jobs
  ADD COLUMN IF NOT EXISTS standing TINYINT UNSIGNED NOT NULL DEFAULT 0,
  ADD KEY IF NOT EXISTS jobs_standing (shop_id, archived_at, standing, id);

-- A job stands where the furthest of its options does. How often a design's revisions were rewritten to take a person's name out; what is kept of an older one is stale.
ALTER TABLE designs
  ADD COLUMN IF NOT EXISTS edition INT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS standing TINYINT UNSIGNED NOT NULL DEFAULT 0;

-- What is found by words: one row a thing, its words as they are looked for, each also in a row of its own.
CREATE TABLE IF NOT EXISTS search_entries (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shop_id INT UNSIGNED NOT NULL,
  kind VARCHAR(10) NOT NULL,
  ref INT UNSIGNED NOT NULL,
  title VARCHAR(160) NOT NULL,
  line VARCHAR(240) NOT NULL,
  address VARCHAR(120) NOT NULL,
  words TEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  UNIQUE KEY entry_of (shop_id, kind, ref),
  KEY entries_newest (shop_id, id),
  FULLTEXT KEY entry_words (words),
  CONSTRAINT search_shop FOREIGN KEY (shop_id) REFERENCES shop (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

CREATE TABLE IF NOT EXISTS search_words (
  shop_id INT UNSIGNED NOT NULL,
  word VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  entry_id INT UNSIGNED NOT NULL,
  PRIMARY KEY (shop_id, word, entry_id),
  KEY words_of_entry (entry_id),
  CONSTRAINT words_shop FOREIGN KEY (shop_id) REFERENCES shop (id),
  CONSTRAINT words_entry FOREIGN KEY (entry_id) REFERENCES search_entries (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;
