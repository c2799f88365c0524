CREATE TABLE `proposals` (
	`id` text PRIMARY KEY NOT NULL,
	`flow` text NOT NULL,
	`text` text NOT NULL,
	`why` text NOT NULL,
	`key` text NOT NULL,
	`caller` text NOT NULL,
	`client` text NOT NULL,
	`created_at` integer NOT NULL,
	`state` text NOT NULL,
	`note` text DEFAULT '' NOT NULL,
	`settled_by` text,
	`settled_at` integer
);
--> statement-breakpoint
CREATE INDEX `proposals_by_state` ON `proposals` (`state`,`created_at`);--> statement-breakpoint
CREATE TABLE `workshop` (
	`id` integer PRIMARY KEY NOT NULL,
	`is_on` integer NOT NULL,
	`flows` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `keys` ADD `propose` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `keys` ADD `credentials` text DEFAULT '{}' NOT NULL;