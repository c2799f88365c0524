CREATE TABLE `approvals` (
	`run` text NOT NULL,
	`path` text NOT NULL,
	`request` text NOT NULL,
	`asked_at` integer NOT NULL,
	`until` integer,
	`decision` text,
	`by` text DEFAULT '' NOT NULL,
	`note` text DEFAULT '' NOT NULL,
	`decided_at` integer,
	PRIMARY KEY(`run`, `path`)
);
