CREATE TABLE `metric_views` (
	`name` text PRIMARY KEY NOT NULL,
	`fields` text NOT NULL,
	`by` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
ALTER TABLE `run_filters` RENAME COLUMN `query` TO `fields`;--> statement-breakpoint
UPDATE `run_filters` SET `fields` = json_object('query', json(`fields`));
