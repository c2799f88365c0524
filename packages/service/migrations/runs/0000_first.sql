CREATE TABLE `journal` (
	`run` text NOT NULL,
	`sequence` integer NOT NULL,
	`at` integer NOT NULL,
	`type` text NOT NULL,
	`body` text NOT NULL,
	PRIMARY KEY(`run`, `sequence`)
);
--> statement-breakpoint
CREATE TABLE `runs` (
	`id` text PRIMARY KEY NOT NULL,
	`trace_id` text NOT NULL,
	`parent_span` text,
	`parent_run` text,
	`flow` text NOT NULL,
	`revision` integer,
	`stage` text NOT NULL,
	`entry` text NOT NULL,
	`caller` text NOT NULL,
	`attributes` text NOT NULL,
	`session` text,
	`input` text NOT NULL,
	`sealed` text,
	`state` text NOT NULL,
	`started_at` integer NOT NULL,
	`ended_at` integer,
	`result` text,
	`error` text
);
--> statement-breakpoint
CREATE INDEX `runs_by_start` ON `runs` (`started_at`);--> statement-breakpoint
CREATE INDEX `runs_by_parent` ON `runs` (`parent_run`);--> statement-breakpoint
CREATE INDEX `runs_by_flow` ON `runs` (`flow`,`started_at`);--> statement-breakpoint
CREATE INDEX `runs_by_session` ON `runs` (`session`);--> statement-breakpoint
CREATE TABLE `spans` (
	`span_id` text PRIMARY KEY NOT NULL,
	`run` text NOT NULL,
	`start` integer NOT NULL,
	`body` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `spans_by_run` ON `spans` (`run`);