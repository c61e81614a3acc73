-- What is done once a day by whichever process comes first.

CREATE TABLE IF NOT EXISTS chores (
  name VARCHAR(20) NOT NULL PRIMARY KEY,
  last_day DATE NOT NULL DEFAULT '2000-01-01'
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;

INSERT IGNORE INTO chores (name) VALUES ('backup');
