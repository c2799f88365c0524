ALTER TABLE `models` ADD `keys` text;--> statement-breakpoint
ALTER TABLE `models` ADD `fallback` text;