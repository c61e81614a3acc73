-- Hand-over: links a customer opens without signing in, and job packs with how far their making is.

CREATE TABLE IF NOT EXISTS customer_links (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shop_id INT UNSIGNED NOT NULL,
  design_id INT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  person_id INT UNSIGNED NOT NULL,
  selector CHAR(16) CHARACTER SET ascii NOT NULL,
  digest CHAR(64) CHARACTER SET ascii NOT NULL,
  ends_on DATE NOT NULL,
  made_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  withdrawn_at DATETIME NULL,
  KEY customer_links_selector (selector),
  KEY customer_links_of_design (shop_id, design_id),
  CONSTRAINT customer_links_shop FOREIGN KEY (shop_id) REFERENCES shop (id),
  CONSTRAINT customer_links_design FOREIGN KEY (design_id) REFERENCES designs (id),
  CONSTRAINT customer_links_person FOREIGN KEY (person_id) REFERENCES people (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

CREATE TABLE IF NOT EXISTS packs (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shop_id INT UNSIGNED NOT NULL,
  design_id INT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  state VARCHAR(12) NOT NULL,
  done SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  total SMALLINT UNSIGNED NOT NULL DEFAULT 1,
  doing VARCHAR(120) NOT NULL DEFAULT '',
  bytes INT UNSIGNED NOT NULL DEFAULT 0,
  digest CHAR(64) CHARACTER SET ascii NOT NULL DEFAULT '',
  made_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  touched_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  KEY packs_of_design (shop_id, design_id, id),
  CONSTRAINT packs_shop FOREIGN KEY (shop_id) REFERENCES shop (id),
  CONSTRAINT packs_design FOREIGN KEY (design_id) REFERENCES designs (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

CREATE TABLE IF NOT EXISTS pack_pieces (
  shop_id INT UNSIGNED NOT NULL,
  pack_id INT UNSIGNED NOT NULL,
  place SMALLINT UNSIGNED NOT NULL,
  piece MEDIUMBLOB NOT NULL,
  PRIMARY KEY (pack_id, place),
  CONSTRAINT pack_pieces_shop FOREIGN KEY (shop_id) REFERENCES shop (id),
  CONSTRAINT pack_pieces_pack FOREIGN KEY (pack_id) REFERENCES packs (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

ALTER TABLE jobs ADD KEY IF NOT EXISTS jobs_of_vehicle (shop_id, vehicle_id);
