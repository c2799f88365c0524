CREATE TABLE `pages` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`run` text NOT NULL,
	`entries` text NOT NULL,
	`spans` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `pages_by_run` ON `pages` (`run`);--> statement-breakpoint
CREATE TABLE `runs` (
	`id` text PRIMARY KEY NOT NULL,
	`flow` text NOT NULL,
	`state` text NOT NULL,
	`caller` text NOT NULL,
	`session` text,
	`parent_run` text,
	`head` text NOT NULL,
	`sealed` text,
	`ended_at` integer,
	`outcome` text
);
--> statement-breakpoint
CREATE INDEX `runs_by_flow` ON `runs` (`flow`,`id`);--> statement-breakpoint
CREATE INDEX `runs_by_parent` ON `runs` (`parent_run`) WHERE parent_run IS NOT NULL;--> statement-breakpoint
CREATE INDEX `runs_open` ON `runs` (`state`) WHERE ended_at IS NULL;