CREATE TABLE `row_history` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`table_name` text NOT NULL,
	`row_id` integer NOT NULL,
	`at` integer NOT NULL,
	`did` text NOT NULL,
	`by_whom` text NOT NULL,
	`run` text,
	`step` text,
	`columns` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `row_history_by_row` ON `row_history` (`table_name`,`row_id`);--> statement-breakpoint
CREATE INDEX `row_history_by_time` ON `row_history` (`at`);