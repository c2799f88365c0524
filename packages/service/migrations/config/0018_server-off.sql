ALTER TABLE `servers` ADD `off` integer DEFAULT false NOT NULL;
