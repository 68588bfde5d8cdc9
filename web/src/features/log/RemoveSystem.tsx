/** Taking away a system of which nothing is logged. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, got, type SystemShown } from "../../api/client";
import * as look from "../../components/look";

/** A system that was added by mistake goes again, as long as nothing is stored of it. */
export function RemoveSystem({ system }: { system: SystemShown }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [sure, setSure] = useState(false);
  const remove = useMutation({
    mutationFn: () => got(api.DELETE("/api/v1/systems/{pk}", { params: { path: { pk: system.id } } })),
    onSuccess: () => {
      sessionStorage.removeItem("system");
      void go("/fleet");
      queries.removeQueries({ queryKey: ["system", system.id] });
      void queries.invalidateQueries({ queryKey: ["fleet"] });
    },
  });
  return (
    <p>
      {remove.isError && (
        <Box component="span" sx={look.ember} role="alert">
          {remove.error.message}{" "}
        </Box>
      )}
      {sure ? (
        <>
          Its description is forgotten. <Button onClick={() => remove.mutate()}>Remove {system.name}</Button>{" "}
          <Button onClick={() => setSure(false)}>Keep it</Button>
        </>
      ) : (
        <Button onClick={() => setSure(true)}>Remove this system …</Button>
      )}
    </p>
  );
}
