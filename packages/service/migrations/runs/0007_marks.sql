CREATE TABLE `figures` (
	`hour` integer NOT NULL,
	`what` text NOT NULL,
	`runs` integer NOT NULL,
	`failed` integer NOT NULL,
	`tokens` integer NOT NULL,
	`cost` real NOT NULL,
	`histogram` text NOT NULL,
	PRIMARY KEY(`hour`, `what`)
);
--> statement-breakpoint
CREATE TABLE `marks` (
	`mark` text NOT NULL,
	`run` text NOT NULL,
	PRIMARY KEY(`mark`, `run`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `spent` (
	`run` text PRIMARY KEY NOT NULL,
	`tokens` integer NOT NULL,
	`cost` real NOT NULL
);
--> statement-breakpoint
CREATE TABLE `text_rows` (
	`run` text PRIMARY KEY NOT NULL,
	`row` integer NOT NULL
);
--> statement-breakpoint
CREATE VIRTUAL TABLE `texts` USING fts5(`run` UNINDEXED, `text`, tokenize = 'unicode61 remove_diacritics 2');
--> statement-breakpoint
INSERT INTO `texts` (`texts`, `rank`) VALUES ('secure-delete', 1);
