CREATE TABLE `server_calls` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`server` text NOT NULL,
	`tool` text NOT NULL,
	`at` integer NOT NULL,
	`took` integer NOT NULL,
	`code` text,
	`run` text,
	`credential` text
);
--> statement-breakpoint
CREATE INDEX `server_calls_server` ON `server_calls` (`server`,`id`);