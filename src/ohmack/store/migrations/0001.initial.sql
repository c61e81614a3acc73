-- The first schema: customers, vehicles, jobs, designs with their revisions, catalogue, shop.

CREATE TABLE IF NOT EXISTS shop (
  id TINYINT UNSIGNED NOT NULL PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  policy JSON NOT NULL CHECK (JSON_VALID(policy)),
  version INT UNSIGNED NOT NULL DEFAULT 1
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

CREATE TABLE IF NOT EXISTS customers (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  phone VARCHAR(40) NOT NULL DEFAULT '',
  version INT UNSIGNED NOT NULL DEFAULT 1,
  KEY customers_name (name)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

CREATE TABLE IF NOT EXISTS vehicles (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  customer_id INT UNSIGNED NOT NULL,
  make VARCHAR(120) NOT NULL,
  model VARCHAR(120) NOT NULL,
  year SMALLINT UNSIGNED NULL,
  body VARCHAR(20) NOT NULL,
  KEY vehicles_kind (make, model, year),
  CONSTRAINT vehicles_customer FOREIGN KEY (customer_id) REFERENCES customers (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

CREATE TABLE IF NOT EXISTS jobs (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  number VARCHAR(12) NULL,
  customer_id INT UNSIGNED NOT NULL,
  vehicle_id INT UNSIGNED NOT NULL,
  title VARCHAR(120) NOT NULL,
  archived_at DATETIME NULL,
  created_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  UNIQUE KEY jobs_number (number),
  CONSTRAINT jobs_customer FOREIGN KEY (customer_id) REFERENCES customers (id),
  CONSTRAINT jobs_vehicle FOREIGN KEY (vehicle_id) REFERENCES vehicles (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

-- One design an option of a job; current_number points at the revision in force.
CREATE TABLE IF NOT EXISTS designs (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  job_id INT UNSIGNED NOT NULL,
  letter CHAR(1) NOT NULL,
  current_number INT UNSIGNED NOT NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  UNIQUE KEY designs_option (job_id, letter),
  CONSTRAINT designs_job FOREIGN KEY (job_id) REFERENCES jobs (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

-- Immutable revisions; undo and redo only move the pointer along parent_number.
CREATE TABLE IF NOT EXISTS revisions (
  design_id INT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  parent_number INT UNSIGNED NULL,
  document JSON NOT NULL CHECK (JSON_VALID(document)),
  reason VARCHAR(200) NOT NULL,
  author VARCHAR(120) NOT NULL DEFAULT '',
  created_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  PRIMARY KEY (design_id, number),
  KEY revisions_parent (design_id, parent_number),
  CONSTRAINT revisions_design FOREIGN KEY (design_id) REFERENCES designs (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

CREATE TABLE IF NOT EXISTS catalogue_parts (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(20) NOT NULL,
  maker VARCHAR(120) NOT NULL DEFAULT '',
  name VARCHAR(120) NOT NULL,
  price DECIMAL(10,2) NULL,
  data JSON NOT NULL CHECK (JSON_VALID(data)),
  archived_at DATETIME NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  KEY catalogue_kind (kind, name)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;
