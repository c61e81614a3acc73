-- Where the shop's instruments are reached: one of each kind.

CREATE TABLE IF NOT EXISTS instruments (
  shop_id INT UNSIGNED NOT NULL,
  kind VARCHAR(20) NOT NULL,
  address VARCHAR(120) NOT NULL,
  name VARCHAR(120) NOT NULL,
  PRIMARY KEY (shop_id, kind),
  CONSTRAINT instruments_shop FOREIGN KEY (shop_id) REFERENCES shop (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;
