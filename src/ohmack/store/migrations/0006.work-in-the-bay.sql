-- What the shop learns from and plans with across its jobs: minutes that steps took, and when cars come into a bay.

CREATE TABLE IF NOT EXISTS step_times (
  shop_id INT UNSIGNED NOT NULL,
  design_id INT UNSIGNED NOT NULL,
  step VARCHAR(90) NOT NULL,
  kind VARCHAR(120) NOT NULL,
  minutes DOUBLE NOT NULL,
  PRIMARY KEY (design_id, step),
  KEY times_of_shop (shop_id, kind),
  CONSTRAINT step_times_shop FOREIGN KEY (shop_id) REFERENCES shop (id),
  CONSTRAINT step_times_design FOREIGN KEY (design_id) REFERENCES designs (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

CREATE TABLE IF NOT EXISTS bookings (
  shop_id INT UNSIGNED NOT NULL,
  design_id INT UNSIGNED NOT NULL PRIMARY KEY,
  bay TINYINT UNSIGNED NOT NULL,
  starts DATETIME NULL,
  due DATE NULL,
  KEY bookings_of_shop (shop_id, starts),
  CONSTRAINT bookings_shop FOREIGN KEY (shop_id) REFERENCES shop (id),
  CONSTRAINT bookings_design FOREIGN KEY (design_id) REFERENCES designs (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

ALTER TABLE vehicle_templates ADD COLUMN IF NOT EXISTS own_steps MEDIUMTEXT NULL;
