CREATE TABLE `clock_marks` (
	`name` text PRIMARY KEY NOT NULL,
	`at` integer NOT NULL
);