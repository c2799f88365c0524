CREATE TABLE `former_names` (
	`what` text NOT NULL,
	`former` text NOT NULL,
	`name` text NOT NULL,
	PRIMARY KEY(`what`, `former`)
);
--> statement-breakpoint
CREATE TABLE `removals` (
	`id` text PRIMARY KEY NOT NULL,
	`what` text NOT NULL,
	`name` text NOT NULL,
	`removed_by` text NOT NULL,
	`removed_at` integer NOT NULL,
	`rows` text NOT NULL,
	`aside` text NOT NULL,
	`tells` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `servers` ADD `instructions` text DEFAULT '' NOT NULL;
