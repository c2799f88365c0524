ALTER TABLE `runs` ADD `endpoint` text;--> statement-breakpoint
CREATE INDEX `runs_by_endpoint` ON `runs` (`endpoint`,`id`) WHERE endpoint IS NOT NULL;