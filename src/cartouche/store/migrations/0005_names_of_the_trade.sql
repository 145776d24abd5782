-- Names that the field uses: largest size, frames per second, distortion of a lens.
ALTER TABLE device RENAME COLUMN most_width TO max_width;
ALTER TABLE device RENAME COLUMN most_height TO max_height;
ALTER TABLE tried RENAME COLUMN frames_s TO fps;
UPDATE chain_revision SET chain = replace(chain, '"bend":', '"distortion":');
UPDATE usual_chain SET chain = replace(chain, '"bend":', '"distortion":'), last_time = replace(last_time, '"bend":', '"distortion":');
