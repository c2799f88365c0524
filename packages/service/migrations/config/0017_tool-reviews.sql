CREATE TABLE `tool_review_choice` (
	`name` text PRIMARY KEY NOT NULL,
	`model` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `tool_reviews` (
	`hash` text PRIMARY KEY NOT NULL,
	`server` text NOT NULL,
	`tool` text NOT NULL,
	`model` text NOT NULL,
	`harmful` integer NOT NULL,
	`why` text NOT NULL,
	`tokens` integer NOT NULL,
	`cost` real NOT NULL,
	`at` integer NOT NULL
);