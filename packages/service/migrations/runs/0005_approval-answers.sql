ALTER TABLE `approvals` ADD `value` text;--> statement-breakpoint
ALTER TABLE `approvals` ADD `standing` text;--> statement-breakpoint
CREATE INDEX `approvals_standing` ON `approvals` (`standing`);