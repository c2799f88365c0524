CREATE TABLE `run_filters` (
	`name` text PRIMARY KEY NOT NULL,
	`query` text NOT NULL,
	`by` text NOT NULL,
	`at` integer NOT NULL
);
